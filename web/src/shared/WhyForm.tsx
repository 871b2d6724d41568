import { useState } from "react";
import { Button, Notice } from "./controls";
import { TextInput } from "./fields";

interface Props {
  /** What would be done, and what comes of it. */
  children: string;
  act: string;
  busy: boolean;
  onAct: (reason: string) => void;
  onKeep: () => void;
}

/** Asks for a reason before something that stands in the trail with it. */
export function WhyForm({ children, act, busy, onAct, onKeep }: Props) {
  const [reason, setReason] = useState("");
  return (
    <form
      ref={(form) => form?.scrollIntoView({ block: "nearest" })}
      onSubmit={(event) => {
        event.preventDefault();
        if (!busy && reason.trim()) onAct(reason.trim());
      }}
    >
      <Notice tone="warn">
        <label className="block">
          {children}
          <TextInput
            autoFocus
            aria-label="Why"
            placeholder="Why: it stands in the trail"
            className="mt-1 block w-full"
            maxLength={500}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            onKeyDown={(event) => {
              if (event.key !== "Escape") return;
              event.stopPropagation();
              onKeep();
            }}
          />
        </label>
        <div className="mt-1.5 flex gap-2">
          <Button type="submit" tone="main" disabled={busy || !reason.trim()}>
            {act}
          </Button>
          <Button onClick={onKeep}>Leave it</Button>
        </div>
      </Notice>
    </form>
  );
}
