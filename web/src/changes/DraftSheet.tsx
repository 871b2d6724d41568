import { useState } from "react";
import { Link } from "react-router";
import {
  changesFile,
  useCloseDraft,
  useDraft,
  useDraftStep,
  useDropDraft,
  useDropOperation,
  useKeepOperation,
} from "../api/drafts";
import type { Schemas } from "../api/client";
import { useRenumber } from "../api/drafts";
import { Beside } from "../kit/SidePanel";
import { Alert, Refusal } from "../kit/Alert";
import { Button, ButtonLink } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { Confirmation } from "../kit/Confirmation";
import { plural } from "../shared/span";
import { ChangeList } from "./ChangeList";
import { ImpactPanel } from "./ImpactPanel";
import { PublishPanel } from "./PublishPanel";
import { TrialsPanel } from "./TrialsPanel";
import { useWords, type Words } from "./useWords";
import { at } from "../draft/place";
import { TextArea, TextInput } from "../kit/inputs";
import { May, MayChange } from "../shared/May";
import { useMay } from "../api/domains";
import { useMe } from "../api/people";

type Detail = Schemas["DraftDetail"];

/**
 * The draft that is shown: what it does in sentences on the left, whom it hits and how it goes live
 * on the right.
 */
export function DraftSheet({ place }: { place: string }) {
  const draft = useDraft(place);
  const undo = useDraftStep(place, "undo");
  const redo = useDraftStep(place, "redo");
  const drop = useDropOperation(place);
  const keep = useKeepOperation(place);
  const renumber = useRenumber(place);
  const discard = useDropDraft(place);
  const close = useCloseDraft(place);
  const words = useWords(place, draft.data);
  const [asked, setAsked] = useState(false);
  // Kept here: what stands beside the screen is drawn anew when its place changes.
  const [publishing, setPublishing] = useState(false);
  const may = useMay(place);
  const mine = useMe().data?.name === draft.data?.author;
  if (draft.isPending) return <Loading what="the draft" />;
  if (draft.error) return <Failure error={draft.error} retry={() => void draft.refetch()} />;
  const { data } = draft;
  const { version } = data;
  const busy =
    undo.isPending || redo.isPending || drop.isPending || keep.isPending || renumber.isPending;
  const error =
    undo.error ??
    redo.error ??
    drop.error ??
    keep.error ??
    renumber.error ??
    discard.error ??
    close.error;
  return (
    <>
      <div tabIndex={-1} className="h-full overflow-y-auto px-4 pb-4 small:px-2">
        <MayChange right="draft" at={place}>
          <WordFields draft={data} words={words} />
        </MayChange>
        <div className="mb-2 flex flex-wrap items-center gap-1.5">
          {may("draft") && (
            <>
              <Button disabled={!data.can_undo || busy} onClick={() => undo.mutate({ version })}>
                Undo
              </Button>
              <Button disabled={!data.can_redo || busy} onClick={() => redo.mutate({ version })}>
                Redo
              </Button>
              <Button
                disabled={busy}
                onClick={() => renumber.mutate(null)}
                title="Numbers 10, 20, 30 … in the same order: nobody's policy changes"
              >
                Renumber with gaps
              </Button>
            </>
          )}
          <ButtonLink href={changesFile(place)} download>
            Export as LDIF
          </ButtonLink>
          {may("draft") && (mine || may("settings")) && (
            <Button
              tone="danger"
              className="ml-auto"
              aria-expanded={asked}
              onClick={() => setAsked(!asked)}
            >
              Drop the draft
            </Button>
          )}
        </div>
        {!data.all_there && <LeftOut left={data.left_out} />}
        {data.all_there && (
          <div className="mb-3">
            <Alert tone="plain" role="status">
              <p className="mb-1.5">
                <span className="text-pass">✓ All of this is already so.</span> The domain holds
                everything this draft wants: nothing is left to publish.
              </p>
              <May right="draft" at={place}>
                <Button
                  tone="main"
                  disabled={close.isPending}
                  onClick={() => close.mutate(version)}
                >
                  Close the draft
                </Button>
              </May>
            </Alert>
          </div>
        )}
        {asked && (
          <div className="mb-3">
            <Confirmation
              tone="danger"
              act="Drop it for good"
              busy={discard.isPending}
              onAct={() => discard.mutate(version)}
              keep="Keep it"
              onKeep={() => setAsked(false)}
            >
              <p>
                Drop “{data.title}” with all its changes? Live stays as it is. This cannot be
                undone.
              </p>
            </Confirmation>
          </div>
        )}
        <Refusal error={error} />
        {data.groups.length === 0 && draft.isFetching ? (
          // An earlier answer says nothing of edits that were just saved.
          <p className="py-3 text-soft">Loading the changes …</p>
        ) : data.groups.length === 0 ? (
          <p className="py-3 text-soft">
            Nothing is changed in this draft yet. Edit a policy in the{" "}
            <Link className="underline" to={`/${at(place)}/strata`}>
              strata
            </Link>
            : every edit lands here, and live stays as it is until you publish.
          </p>
        ) : (
          <ChangeList
            heading="h2"
            groups={data.groups}
            busy={busy}
            onDrop={may("draft") ? (number) => drop.mutate({ number, version }) : undefined}
            onKeep={may("draft") ? (number) => keep.mutate({ number, version }) : undefined}
          />
        )}
        {data.what_ifs > 0 && (
          <Alert>
            What-ifs count in every screen while this draft is shown. Publishing leaves accounts and
            groups as they are.
          </Alert>
        )}
        <Beside>
          <div className="space-y-3 px-4 py-3 small:px-0">
            <ImpactPanel place={place} />
            <TrialsPanel place={place} />
            <PublishPanel
              place={place}
              draft={data}
              loading={draft.isFetching}
              words={words}
              asked={publishing}
              onAsk={setPublishing}
            />
          </div>
        </Beside>
      </div>
    </>
  );
}

/** Title and reason, saved when the field is left. */
function WordFields({ draft, words }: { draft: Detail; words: Words }) {
  // What goes wrong is said below; whoever goes on from here waits for it too.
  const save = () => void words.flush().catch(() => undefined);
  return (
    <div className="mb-2 grid grid-cols-[52px_minmax(0,1fr)] items-start gap-x-2 gap-y-1.5">
      <label htmlFor="draft-title" className="pt-1">
        Draft
      </label>
      <TextInput
        id="draft-title"
        value={words.title}
        maxLength={100}
        className="font-semibold"
        onChange={(event) => words.type({ title: event.target.value })}
        onBlur={save}
      />
      <label htmlFor="draft-reason" className="pt-1">
        Reason
      </label>
      <TextArea
        id="draft-reason"
        value={words.reason}
        rows={2}
        maxLength={2000}
        placeholder="Why these changes are made; whoever approves reads it, and history keeps it."
        onChange={(event) => words.type({ reason: event.target.value })}
        onBlur={save}
      />
      <p className="col-start-2 text-xs text-soft">
        Begun by {draft.author}, last changed by {draft.changed_by}.{" "}
        {words.unsaved
          ? words.busy
            ? "Saving …"
            : "Not saved yet."
          : "The address of this page shows it to others."}
      </p>
      <div className="col-span-2">
        <Refusal error={words.error} />
      </div>
    </div>
  );
}

/** What the file cannot hold: said beside the export, and at the top of the file. */
function LeftOut({ left }: { left: Detail["left_out"] }) {
  if (left.length === 0) return null;
  return (
    <details className="mb-2 border-l-[3px] border-warn bg-warnbg px-2.5 py-1 text-sm">
      <summary className="cursor-pointer">
        △ The LDIF file leaves out {plural(left.length, "change")} of this draft; it says so at its
        top.
      </summary>
      <ul className="max-h-40 overflow-y-auto pt-1">
        {left.map((one) => (
          <li key={one.what} className="py-0.5">
            {one.what}. <span className="text-soft">{one.why}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}
