import { Link } from "react-router";
import type { Schemas } from "../api/client";
import {
  useCatalogue,
  useEditPolicy,
  usePolicy,
  useWeighedEdit,
  type PolicySetting,
} from "../api/policies";
import { announce } from "../shared/announce";
import { focusOn } from "../shared/focus";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { plural } from "../shared/span";
import { useSaveKey } from "../shared/useSaveKey";
import { useAddition } from "../api/additions";
import { AskedBesides } from "../additions/AskedBesides";
import { Attributes } from "./Attributes";
import { BottomBar } from "../kit/BottomBar";
import { ConflictNotice } from "./ConflictNotice";
import { Deletion } from "./Deletion";
import {
  changesOf,
  NO_EDITS,
  problemsOf,
  sentences,
  unedited,
  type Begun,
  type Edits,
} from "./edits";
import { Links } from "./Links";
import { PolicyOnBench } from "../bench/PolicyOnBench";
import { PanelHead } from "../kit/PanelHead";
import { Raised } from "./Raised";
import { SaveBar } from "../kit/SaveBar";
import { SettingsSheet } from "./SettingsSheet";
import { useForm } from "../kit/form/useForm";
import { Form } from "../kit/form/Form";
import { at, draftOf } from "../draft/place";
import { May, MayChange } from "../shared/May";

type Detail = Schemas["PolicyDetail"];

interface Props {
  domain: string;
  guid: string;
  onSelect: (guid: string) => void;
  onCopy: () => void;
  /**
   * A precedence typed but not saved, for the section to show what it would move; null when there
   * is none.
   */
  onWeigh: (weighing: { guid: string; precedence: number } | null) => void;
  /** Whether the section shows only what this policy touches. */
  focused: boolean;
  onFocus: (focused: boolean) => void;
  /** Open what it asks beyond the directory's own rules. */
  onBesides: () => void;
}

export function PolicyEditor({ domain, guid, ...rest }: Props) {
  const { onSelect } = rest;
  const policy = usePolicy(domain, guid);
  const catalogue = useCatalogue();
  // With the policy, so that nothing below it moves when it comes.
  const addition = useAddition(domain, guid);
  if (policy.error) {
    return (
      <div>
        <Failure error={policy.error} retry={() => void policy.refetch()} />
        <Button className="ml-4" onClick={() => onSelect("")}>
          Close
        </Button>
      </div>
    );
  }
  if (policy.isPending || catalogue.isPending || addition.isPending)
    return <Loading what="the policy" />;
  if (catalogue.error)
    return <Failure error={catalogue.error} retry={() => void catalogue.refetch()} />;
  return <Sheet domain={domain} stored={policy.data} catalogue={catalogue.data} {...rest} />;
}

type SheetProps = Omit<Props, "guid"> & { stored: Detail; catalogue: PolicySetting[] };

function Sheet({
  domain,
  stored,
  catalogue,
  onSelect,
  onCopy,
  onWeigh,
  focused,
  onFocus,
  onBesides,
}: SheetProps) {
  // With the version they were begun on: a newer one arriving meanwhile must not be overwritten in
  // silence.
  const work = {
    place: domain,
    about: `policy ${stored.guid}`,
    label: stored.name,
    to: `/${at(domain)}/strata?policy=${stored.guid}`,
  };
  const save = useEditPolicy(domain, stored.guid);
  const form = useForm<Begun>({
    work,
    start: { ...NO_EDITS, begunOn: stored.version },
    isBlank: unedited,
    writes: [save],
    shows: ["name", "precedence", ...catalogue.map(({ key }) => key)],
    check: problemsOf,
  });
  const edits = form.value;
  const changes = changesOf(stored, edits);
  const dirty = changes.count > 0;
  const version = dirty ? edits.begunOn : stored.version;
  const { conflict } = form;

  const { precedence, settings } = changes.body;
  const weighed = useWeighedEdit(
    domain,
    dirty ? { policy: stored.guid, precedence, settings } : null,
  ).data;

  const edit = (next: Edits) => {
    form.set({ ...next, begunOn: version });
    if (next.precedence !== edits.precedence) {
      const weighed = next.precedence !== undefined && next.precedence !== stored.precedence;
      onWeigh(
        weighed ? { guid: stored.guid, precedence: next.precedence ?? stored.precedence } : null,
      );
    }
  };
  const reset = () => {
    form.reset();
    if (edits.precedence !== undefined) onWeigh(null);
  };
  const send = (onVersion: number) => {
    if (!dirty || form.blocked || save.isPending) return;
    // The sheet may be another one by then: what is saved is shown in its draft.
    form.send(
      () => save.mutateAsync({ version: onVersion, ...changes.body }),
      ({ place }, sent) => {
        announce("Saved to the draft.");
        // Whoever has typed on meanwhile is not taken away from it.
        if (!form.settled(place, sent)) return;
        if (edits.precedence !== undefined) onWeigh(null);
        return "review-draft";
      },
    );
  };

  useSaveKey(() => send(version));

  return (
    <Form of={form} className="flex min-h-full flex-col" onSubmit={() => send(version)}>
      <PanelHead
        mark={stored.mark}
        title={stored.name}
        detail={`Precedence ${stored.precedence} · governs ${stored.governed.toLocaleString("en")} of ${stored.reached.toLocaleString("en")}`}
        onClose={() => onSelect("")}
      />
      <div className="space-y-3 px-4 pb-4">
        <PolicyOnBench place={domain} guid={stored.guid} name={stored.name} />
        <Warnings policy={stored} />
        <div className="flex items-center gap-2">
          <May right="draft" at={domain}>
            <Button size="small" onClick={onCopy}>
              Duplicate
            </Button>
          </May>
          <Button size="small" aria-pressed={focused} onClick={() => onFocus(!focused)}>
            {focused ? "Show all layers" : "Show only what it touches"}
          </Button>
        </div>
        <Raised domain={domain} guid={stored.guid} />
        <TakenBy policy={stored} />
        {conflict && (
          <ConflictNotice
            stored={conflict.current}
            message={conflict.message}
            edits={edits}
            catalogue={catalogue}
            onKeepMine={() => send(conflict.current.version)}
            onTakeTheirs={reset}
          />
        )}
        <Refusal error={form.refusal} />
        <MayChange right="draft" at={domain}>
          <SettingsSheet
            key={form.round}
            domain={domain}
            policy={stored.guid}
            stored={stored}
            bedrock={stored.bedrock}
            live={stored.live}
            told={(dirty && weighed) || stored}
            catalogue={catalogue}
            edits={edits}
            errors={form.errors}
            onEdit={edit}
          />
        </MayChange>
        <Links domain={domain} policy={stored} />
        <AskedBesides
          domain={domain}
          policy={stored.guid}
          open={
            <Button id="open-besides" size="small" onClick={onBesides}>
              Open
            </Button>
          }
        />
        <Attributes domain={domain} kind="policies" name={stored.guid} />
        <May right="draft" at={domain}>
          <Deletion domain={domain} policy={stored} locked={dirty} onGone={() => onSelect("")} />
        </May>
        <p className="text-xs text-soft">Last changed by {stored.changed_by}.</p>
      </div>
      {!dirty && <ReviewBar place={domain} />}
      {dirty && (
        <SaveBar
          lines={sentences(stored, edits, catalogue)}
          sentence={form.blocked ? "" : (weighed?.sentence ?? "")}
          busy={save.isPending}
          blocked={form.blocked || conflict !== null}
          onDiscard={reset}
        />
      )}
    </Form>
  );
}

/** A policy that governs nobody, and policies of the same precedence. */
function Warnings({ policy }: { policy: Detail }) {
  return (
    <>
      {policy.idle && <Alert tone="warn">△ {policy.idle}</Alert>}
      {policy.ties.map((tie) => (
        <Alert key={tie.guid} tone="warn">
          <strong>Tie at {policy.precedence}</strong> with {tie.name}.{" "}
          {tie.contested > 0
            ? `For ${plural(tie.contested, "account")} on both, the smaller object GUID decides: ${tie.wins ? policy.name : tie.name} wins. Give one another number.`
            : "No account is on both, so nothing hangs on it today."}
        </Alert>
      ))}
    </>
  );
}

/** The policies that govern accounts which this policy reaches too. */
function TakenBy({ policy }: { policy: Detail }) {
  if (policy.idle || policy.taken_by.length === 0) return null;
  return (
    <p className="text-soft">
      Taken by others:{" "}
      {policy.taken_by.map((t) => `${t.name} ${t.accounts.toLocaleString("en")}`).join(", ")}.
    </p>
  );
}

/** The way on from a policy without unsaved edits. */
function ReviewBar({ place }: { place: string }) {
  if (draftOf(place) === null) return null;
  return (
    <BottomBar className="bg-sheet py-1.5">
      <Link
        id="review-draft"
        className="underline"
        to={`/${at(place)}/changes`}
        onClick={() => focusOn("publish")}
      >
        Review the draft
      </Link>
      <span className="text-soft"> and publish it</span>
    </BottomBar>
  );
}
