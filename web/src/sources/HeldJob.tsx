import { useState } from "react";
import type { Job } from "../api/jobs";
import { Alert } from "../kit/Alert";
import { Button } from "../kit/Button";
import { ScrolledList } from "../kit/ScrolledList";
import { ReasonForm } from "../kit/ReasonForm";

/** An import or a sync that would take protection away: what would be lost, and the way on. */
export function HeldJob({
  job,
  busy,
  onConfirm,
}: {
  job: Job;
  busy: boolean;
  onConfirm: (reason: string, done: () => void) => void;
}) {
  const [asked, setAsked] = useState(false);
  return (
    <div role="status" className="space-y-1.5">
      <Alert tone="warn">△ {job.error}</Alert>
      <ScrolledList label="What would be lost" of={job.losses} />
      {job.waits && (
        <Alert tone="warn">
          △ One person confirmed the losses. A second person has to confirm the losses too (People).
        </Alert>
      )}
      {/* A reason that is typed stays, also where somebody else was faster. */}
      {asked ? (
        <ReasonForm
          act="Confirm losses"
          busy={busy}
          onAct={(reason) => onConfirm(reason, () => setAsked(false))}
          onKeep={() => setAsked(false)}
        >
          Where approval is required, a second person has to confirm the losses too.
        </ReasonForm>
      ) : (
        !job.waits && <Button onClick={() => setAsked(true)}>Confirm losses …</Button>
      )}
    </div>
  );
}
