import { Notice } from "./controls";

/** Says that what was asked for is not done yet. */
export function Waits({ on }: { on: boolean | undefined }) {
  if (!on) return null;
  return (
    <Notice tone="warn" role="status">
      △ A change waits for a second person (People). Until then the settings stay as they are.
    </Notice>
  );
}
