import { useState } from "react";
import type { Job } from "../api/jobs";
import { Button, Notice } from "../shared/controls";
import { ScrolledList } from "../shared/ScrolledList";
import { WhyForm } from "../shared/WhyForm";

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
      <Notice tone="warn">△ {job.error}</Notice>
      <ScrolledList label="What would be lost" of={job.losses} />
      {job.waits && (
        <Notice tone="warn">
          △ One person confirmed the losses. A second person has to confirm the losses too (People).
        </Notice>
      )}
      {/* A reason that is typed stays, also where somebody else was faster. */}
      {asked ? (
        <WhyForm
          act="Confirm losses"
          busy={busy}
          onAct={(reason) => onConfirm(reason, () => setAsked(false))}
          onKeep={() => setAsked(false)}
        >
          Where approval is required, a second person has to confirm the losses too.
        </WhyForm>
      ) : (
        !job.waits && <Button onClick={() => setAsked(true)}>Confirm losses …</Button>
      )}
    </div>
  );
}
