import { useState } from "react";
import { useDraftStep, usePublish } from "../api/drafts";
import type { Schemas } from "../api/client";
import { useTrials } from "../api/bench";
import { useMe } from "../api/queries";
import { Button, Notice } from "../shared/controls";
import { plural } from "../shared/span";

/** Review by a second person, and the one deliberate step that makes the draft live. */
export function PublishPanel({ place, draft }: { place: string; draft: Schemas["DraftDetail"] }) {
  const me = useMe();
  const trials = useTrials(place).data;
  const approve = useDraftStep(place, "approve");
  const publish = usePublish(place);
  const [asked, setAsked] = useState(false);
  const publishable = draft.changes - draft.what_ifs;
  const mine = me.data?.name === draft.author || me.data?.name === draft.changed_by;
  const waiting = draft.approval_required && !draft.approved_by;
  const hindrance =
    publishable === 0
      ? "There is nothing to publish yet."
      : draft.conflicts > 0
        ? `Resolve or take out what does not fit live first (${draft.conflicts}).`
        : waiting
          ? "A second person has to approve it first."
          : trials?.required && trials.unmet > 0
            ? `This domain wants all trials met before publishing; ${plural(trials.unmet, "trial")} of ${trials.trials.length} ${trials.unmet === 1 ? "is" : "are"} not.`
            : "";
  const error = approve.error ?? publish.error;
  return (
    <section aria-label="Review and publish" className="space-y-2 border-t border-line pt-2">
      <h2 className="text-sm">Review and publish</h2>
      <p>
        {draft.approved_by ? (
          <>
            <span className="text-pass">✓ Approved by {draft.approved_by}.</span> Any change to the draft ends the approval.
          </>
        ) : draft.approval_required ? (
          "Not approved yet. This domain wants a second person to approve."
        ) : (
          "Not approved. Here approval is optional."
        )}
      </p>
      {error && (
        <Notice tone="fail" role="alert">
          {error.message}
        </Notice>
      )}
      {hindrance && <p className="text-soft">{hindrance}</p>}
      {asked && !hindrance ? (
        <Notice tone="warn">
          <p className="mb-1.5">
            Publish {plural(publishable, "change")} to live at once? History keeps it and can take it back.
          </p>
          <div className="flex gap-2">
            <Button tone="main" disabled={publish.isPending} onClick={() => publish.mutate(draft.version)}>
              {publish.isPending ? "Publishing …" : "Publish now"}
            </Button>
            <Button onClick={() => setAsked(false)}>Not yet</Button>
          </div>
        </Notice>
      ) : (
        <div className="flex gap-2">
          <Button tone="main" disabled={hindrance !== ""} onClick={() => setAsked(true)}>
            Publish …
          </Button>
          {!draft.approved_by && (
            <Button
              disabled={mine || approve.isPending || publishable === 0}
              title={mine ? "Somebody else has to approve: you wrote or changed it" : undefined}
              onClick={() => approve.mutate(draft.version)}
            >
              Approve
            </Button>
          )}
        </div>
      )}
    </section>
  );
}
