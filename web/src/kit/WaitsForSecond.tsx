import { Alert } from "./Alert";

/** Says that what was asked for is not done yet. */
export function WaitsForSecond({ on }: { on: boolean | undefined }) {
  if (!on) return null;
  return (
    <Alert tone="warn" role="status">
      △ A change waits for a second person (People). Until then the settings stay as they are.
    </Alert>
  );
}
