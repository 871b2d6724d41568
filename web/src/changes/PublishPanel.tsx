import { usePreview } from "../api/publications";
import { Link } from "react-router";
import { useApproveDraft, usePublish } from "../api/drafts";
import type { Schemas } from "../api/client";
import { useTrials } from "../api/bench";
import { useSpreads } from "../api/spreads";
import { useMe } from "../api/people";
import { announce } from "../shared/announce";
import { focusAfterwards, focusOn } from "../shared/focus";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Confirmation } from "../kit/Confirmation";
import { useUnsaved } from "../shared/kept";
import { dayText } from "../shared/moments";
import { plural } from "../shared/span";
import { hinderedSteps, PreviewPart } from "./PreviewPart";
import { useAfterWords, type Words } from "./useWords";
import { useMay } from "../api/domains";

/** Review by a second person, and the one deliberate step that makes the draft live. */
export function PublishPanel({
  place,
  draft,
  loading,
  words,
  asked,
  onAsk: setAsked,
}: {
  place: string;
  draft: Schemas["DraftDetail"];
  /** A newer answer of the server is on its way. */
  loading: boolean;
  words: Words;
  asked: boolean;
  onAsk: (asked: boolean) => void;
}) {
  const me = useMe();
  const trials = useTrials(place).data;
  const spread = useSpreads(place).data?.[0];
  const may = useMay(place);
  const approve = useApproveDraft(place);
  const publish = usePublish(place);
  const after = useAfterWords(words);
  const preview = usePreview(place, draft.version, asked);
  const unsaved = useUnsaved().filter((work) => work.place === place && work.about !== "words");
  const publishable = draft.changes - draft.what_ifs - draft.already;
  const mine = draft.contributors.includes(me.data?.name ?? "");
  const waiting = draft.approval_required && !draft.approved_by;
  const hindrance =
    publishable <= 0
      ? draft.already > 0
        ? "Nothing is left to publish: it is so already."
        : loading
          ? "Loading the changes …"
          : "There is nothing to publish yet."
      : draft.conflicts > 0
        ? `Resolve or take out what does not fit live first (${draft.conflicts}).`
        : waiting
          ? "A second person has to approve it first."
          : trials?.required && trials.running > 0
            ? "The trials are still being run on all accounts."
            : trials?.required && trials.unmet > 0
              ? `This domain wants all trials met before publishing; ${plural(trials.unmet, "trial")} of ${trials.trials.length} ${trials.unmet === 1 ? "is" : "are"} not.`
              : "";
  const error = after.error;
  return (
    <section aria-label="Review and publish" className="space-y-2 border-t border-line pt-2">
      <h2 className="text-sm">Review and publish</h2>
      <p>
        {draft.approved_by ? (
          <>
            <span className="text-pass">✓ Approved by {draft.approved_by}.</span> Any change to the
            draft ends the approval.
          </>
        ) : draft.approval_required ? (
          "Not approved yet. This domain wants a second person to approve."
        ) : (
          "Not approved. Here approval is optional."
        )}
      </p>
      {draft.approval_ended && (
        <p className="text-warn">△ The last approval has ended. {draft.approval_ended}</p>
      )}
      <Refusal error={error} />
      {hindrance && <p className="text-soft">{hindrance}</p>}
      {asked && !hindrance ? (
        <Confirmation
          tone="main"
          act="Publish now"
          acting="Publishing …"
          busy={after.busy}
          hindered={hinderedSteps(preview.data) > 0}
          onAct={() => {
            const focus = focusAfterwards();
            after.run(() =>
              publish.mutateAsync(draft.version).then(({ job }) => {
                announce(job ? "It is being written into the directory." : "Published.");
                focus.on(job ? "publication" : "take-back");
              }),
            );
          }}
          keep="Not yet"
          onKeep={() => {
            setAsked(false);
            focusOn("publish");
          }}
        >
          <p>
            Publish {plural(publishable, "change")} to live at once? History keeps it and can take
            it back.
          </p>
          <PreviewPart place={place} preview={preview} />
          {spread?.state === "running" && spread.draft === draft.id && (
            <p className="text-warn">
              △ Its spread over weeks runs until {dayText(`${spread.ends}T12:00`)}: not everybody
              was told yet to choose another password first.
            </p>
          )}
          {unsaved.length > 0 && (
            <p>
              Not in it, since it is not saved to the draft:{" "}
              {unsaved.map((work, n) => (
                <span key={work.about}>
                  {n > 0 && ", "}
                  <Link className="underline" to={work.to}>
                    {work.label}
                  </Link>
                </span>
              ))}
              . It stays as typed, in live.
            </p>
          )}
        </Confirmation>
      ) : (
        <div className="flex gap-2">
          {may("publish") && (
            <Button
              id="publish"
              tone="main"
              disabled={hindrance !== ""}
              onClick={() => setAsked(true)}
            >
              Publish …
            </Button>
          )}
          {!draft.approved_by && may("approve") && (
            <Button
              disabled={mine || after.busy || publishable <= 0}
              title={mine ? "Somebody else has to approve: you wrote or changed it" : undefined}
              onClick={() =>
                after.run(() => approve.mutateAsync({ version: draft.version, text: draft.text }))
              }
            >
              Approve
            </Button>
          )}
        </div>
      )}
    </section>
  );
}
