import { useState } from "react";
import { Link } from "react-router";
import { changesFile, useDescribeDraft, useDraft, useDraftStep, useDropDraft, useDropOperation, useKeepOperation } from "../api/drafts";
import type { Schemas } from "../api/client";
import { useRenumber } from "../api/queries";
import { SidePanel } from "../app/SidePanel";
import { Button, Failed, Loading, Notice } from "../shared/controls";
import { ChangeList } from "./ChangeList";
import { ImpactPanel } from "./ImpactPanel";
import { PublishPanel } from "./PublishPanel";
import { TrialsPanel } from "./TrialsPanel";

/** The draft that is shown: what it does in sentences on the left, whom it hits and how it goes live on the right. */
export function DraftSheet({ place }: { place: string }) {
  const draft = useDraft(place);
  const undo = useDraftStep(place, "undo");
  const redo = useDraftStep(place, "redo");
  const drop = useDropOperation(place);
  const keep = useKeepOperation(place);
  const renumber = useRenumber(place);
  const discard = useDropDraft(place);
  const [asked, setAsked] = useState(false);
  if (draft.isPending) return <Loading what="the draft" />;
  if (draft.error) return <Failed error={draft.error} retry={() => void draft.refetch()} />;
  const { data } = draft;
  const { version } = data;
  const busy = undo.isPending || redo.isPending || drop.isPending || keep.isPending || renumber.isPending;
  const error = undo.error ?? redo.error ?? drop.error ?? keep.error ?? renumber.error ?? discard.error;
  return (
    <>
      <div className="h-full overflow-y-auto px-4 pb-4">
        <Words key={`${data.id}`} place={place} draft={data} />
        <div className="mb-2 flex flex-wrap items-center gap-1.5">
          <Button disabled={!data.can_undo || busy} onClick={() => undo.mutate(version)}>
            Undo
          </Button>
          <Button disabled={!data.can_redo || busy} onClick={() => redo.mutate(version)}>
            Redo
          </Button>
          <Button disabled={busy} onClick={() => renumber.mutate(null)} title="Numbers 10, 20, 30 … in the same order: nobody's policy changes">
            Renumber with gaps
          </Button>
          <a
            className="inline-flex h-7 items-center rounded-[5px] border border-edge bg-white px-2.5 text-sm font-medium hover:bg-paper"
            href={changesFile(place)}
            download
          >
            Export as LDIF
          </a>
          <Button tone="danger" className="ml-auto" aria-expanded={asked} onClick={() => setAsked(!asked)}>
            Drop the draft
          </Button>
        </div>
        {asked && (
          <Notice tone="fail">
            <p className="mb-1.5">Drop “{data.title}” with all its changes? Live stays as it is. This cannot be undone.</p>
            <div className="flex gap-2">
              <Button tone="danger" disabled={discard.isPending} onClick={() => discard.mutate(version)}>
                Drop it for good
              </Button>
              <Button onClick={() => setAsked(false)}>Keep it</Button>
            </div>
          </Notice>
        )}
        {error && (
          <Notice tone="fail" role="alert">
            {error.message}
          </Notice>
        )}
        {data.groups.length === 0 ? (
          <p className="py-3 text-soft">
            Nothing is changed in this draft yet. Edit a policy in the{" "}
            <Link className="underline" to={`/${place}/strata`}>
              strata
            </Link>
            : every edit lands here, and live stays as it is until you publish.
          </p>
        ) : (
          <ChangeList
            groups={data.groups}
            busy={busy}
            onDrop={(operation) => drop.mutate({ operation, version })}
            onKeep={(operation) => keep.mutate({ operation, version })}
          />
        )}
        {data.what_ifs > 0 && (
          <Notice>What-ifs count in every screen while this draft is shown. Publishing leaves accounts and groups as they are.</Notice>
        )}
      </div>
      <SidePanel>
        <div className="space-y-3 px-4 py-3">
          <ImpactPanel place={place} />
          <TrialsPanel place={place} />
          <PublishPanel place={place} draft={data} />
        </div>
      </SidePanel>
    </>
  );
}

/** Title and reason, kept when the field is left. */
function Words({ place, draft }: { place: string; draft: Schemas["DraftDetail"] }) {
  const describe = useDescribeDraft(place);
  const [title, setTitle] = useState(draft.title);
  const [reason, setReason] = useState(draft.reason);
  const save = () => {
    if (title.trim() === "" || (title === draft.title && reason === draft.reason)) return;
    describe.mutate({ version: draft.version, title, reason });
  };
  return (
    <div className="mb-2 grid grid-cols-[52px_minmax(0,1fr)] items-start gap-x-2 gap-y-1.5">
      <label htmlFor="draft-title" className="pt-1">
        Draft
      </label>
      <input
        id="draft-title"
        value={title}
        maxLength={100}
        className="h-7 rounded-[5px] border border-edge px-2 font-semibold"
        onChange={(event) => setTitle(event.target.value)}
        onBlur={save}
      />
      <label htmlFor="draft-reason" className="pt-1">
        Reason
      </label>
      <textarea
        id="draft-reason"
        value={reason}
        rows={2}
        maxLength={2000}
        placeholder="Why these changes are made; whoever approves reads it, and history keeps it."
        className="rounded-[5px] border border-edge bg-white px-2 py-1"
        onChange={(event) => setReason(event.target.value)}
        onBlur={save}
      />
      <p className="col-start-2 text-xs text-soft">
        Begun by {draft.author}, last changed by {draft.changed_by}. The address of this page shows it to others.
      </p>
      {describe.error && (
        <div className="col-span-2">
          <Notice tone="fail" role="alert">
            {describe.error.message}
          </Notice>
        </div>
      )}
    </div>
  );
}
