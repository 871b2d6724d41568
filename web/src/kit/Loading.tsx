import { Alert } from "./Alert";
import { Button } from "./Button";

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="p-4 text-soft">
      Reading {what} …
    </p>
  );
}

export function Failure({ error, retry }: { error: unknown; retry?: () => void }) {
  return (
    <div className="p-4">
      <Alert tone="fail" role="alert">
        <p>{error instanceof Error ? error.message : "Something went wrong."}</p>
        {retry && (
          <Button className="mt-2" onClick={retry}>
            Try again
          </Button>
        )}
      </Alert>
    </div>
  );
}
