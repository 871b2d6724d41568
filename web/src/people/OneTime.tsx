import { Alert } from "../kit/Alert";

/** A password to be handed over, shown this once. */
export function OneTime({ name, password }: { name: string; password: string }) {
  return (
    <Alert role="status">
      {name} signs in once within three days with{" "}
      <code className="font-mono font-semibold select-all">{password}</code> and chooses another
      password then. It is shown this once.
    </Alert>
  );
}
