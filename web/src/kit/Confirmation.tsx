import type { ReactNode } from "react";
import { Alert } from "./Alert";
import { Button } from "./Button";

interface Props {
  /** What would be done, and what comes of it. */
  children: ReactNode;
  tone: "danger" | "main";
  /** What does it, and what it is called while it is being done. */
  act: string;
  acting?: string;
  busy: boolean;
  /** Whether it cannot be done, as told in what would be done; the focus may stay on it. */
  hindered?: boolean;
  onAct: () => void;
  keep: string;
  onKeep: () => void;
}

/** Asks once more before something that cannot simply be undone; the answer that does it comes first. */
export function Confirmation({
  children,
  tone,
  act,
  acting,
  busy,
  hindered = false,
  onAct,
  keep,
  onKeep,
}: Props) {
  return (
    <Alert tone={tone === "danger" ? "fail" : "warn"}>
      <div className="mb-1.5 space-y-1.5">{children}</div>
      <div className="flex gap-2">
        <Button
          autoFocus={tone === "main"}
          tone={tone}
          disabled={busy}
          aria-disabled={hindered}
          onClick={hindered ? undefined : onAct}
        >
          {busy ? (acting ?? act) : act}
        </Button>
        <Button onClick={onKeep}>{keep}</Button>
      </div>
    </Alert>
  );
}
