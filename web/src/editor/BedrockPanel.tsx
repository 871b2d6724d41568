import { EmptyState } from "../kit/EmptyState";
import type { Schemas } from "../api/client";
import { useCatalogue, useWeighedEdit } from "../api/policies";
import { useEditBedrock } from "../api/sources";
import { announce } from "../shared/announce";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { plural } from "../shared/span";
import { useUrlState } from "../shared/useUrlState";
import { changesOf, NO_EDITS, problemsOf, sentences, unedited, type Begun } from "./edits";
import { useAddition } from "../api/additions";
import { AskedBesides } from "../additions/AskedBesides";
import { Attributes } from "./Attributes";
import { Origins } from "./Origins";
import { PolicyOnBench } from "../bench/PolicyOnBench";
import { PanelHead } from "../kit/PanelHead";
import { SaveBar } from "../kit/SaveBar";
import { SettingsSheet } from "./SettingsSheet";
import { SourceSheet } from "./SourceSheet";
import { useForm } from "../kit/form/useForm";
import { Form } from "../kit/form/Form";
import { ConflictNotice } from "./ConflictNotice";
import { at } from "../draft/place";
import { PartHead } from "../kit/PartHead";
import { MayChange } from "../shared/May";

/** The domain policy and the group policy objects that write it. */
export function BedrockPanel({
  domain,
  strata,
  onClose,
  onBesides,
}: {
  domain: string;
  strata: Schemas["Strata"];
  onClose: () => void;
  /** Open what it asks beyond the directory's own rules. */
  onBesides: () => void;
}) {
  const { bedrock } = strata;
  const root = bedrock.sources.filter((s) => s.at_root);
  const elsewhere = bedrock.sources.filter((s) => !s.at_root);
  const [shown, setShown] = useUrlState("source");
  const open = bedrock.sources.find((s) => s.gpo === shown);
  // Before the rest, so that nothing below it moves when it comes.
  const addition = useAddition(domain, "domain");
  if (addition.isPending) return <Loading what="the domain policy" />;
  return (
    <div>
      <PanelHead
        mark={null}
        title="Bedrock: domain policy"
        detail={`Holds for ${plural(bedrock.governed, "account")}`}
        onClose={onClose}
      />
      <div className="space-y-4 px-4 pb-4">
        {open ? (
          <SourceSheet
            key={open.gpo + open.container}
            domain={domain}
            source={open}
            bedrock={bedrock.settings}
            count={root.length}
            onBack={() => setShown("")}
          />
        ) : (
          <>
            <PolicyOnBench place={domain} guid="domain" name="the domain policy" />
            {bedrock.origins.length > 0 ? (
              <>
                <p className="text-xs text-soft">
                  These values are written by the sources at the domain root: for each setting the
                  first one that says something. Open a source to change what it says.
                </p>
                <Origins origins={bedrock.origins} onOpen={setShown} />
              </>
            ) : (
              <BedrockSheet domain={domain} bedrock={bedrock} />
            )}
            <Sources
              title="Written from, first one first"
              empty="No group policy object at the domain root was read."
              sources={root}
              onOpen={setShown}
            >
              {bedrock.origins.length > 0
                ? "Enforced links come first, then link order 1, 2, 3 …"
                : "Setting by setting, the first of these that says something wins. What each one says stands in its template: read it in on Sources."}
            </Sources>
            <AskedBesides
              domain={domain}
              policy="domain"
              open={
                <Button id="open-besides" size="small" onClick={onBesides}>
                  Open
                </Button>
              }
            />
            <Attributes domain={domain} kind="policies" name="domain" />
            {elsewhere.length > 0 && (
              <Sources title="Linked elsewhere" sources={elsewhere} empty="" onOpen={setShown}>
                Account settings in these govern only the local accounts of computers below; they
                never change what a domain account gets.
              </Sources>
            )}
          </>
        )}
      </div>
    </div>
  );
}

/** The domain policy's own values, edited like any policy's. */
function BedrockSheet({ domain, bedrock }: { domain: string; bedrock: Schemas["Bedrock"] }) {
  const catalogue = useCatalogue();
  const save = useEditBedrock(domain);
  const work = {
    place: domain,
    about: "bedrock",
    label: "Domain policy",
    to: `/${at(domain)}/strata?policy=domain`,
  };
  // With the version they were begun on, as a policy's are.
  const form = useForm<Begun>({
    work,
    start: { ...NO_EDITS, begunOn: bedrock.version },
    isBlank: unedited,
    writes: [save],
    shows: catalogue.data?.map(({ key }) => key),
    check: problemsOf,
  });
  const changes = changesOf(bedrock, form.value);
  const dirty = changes.count > 0;
  const version = dirty ? form.value.begunOn : bedrock.version;
  const { conflict } = form;
  const weighed = useWeighedEdit(
    domain,
    dirty ? { policy: "domain", settings: changes.body.settings } : null,
  ).data;
  if (catalogue.error)
    return <Failure error={catalogue.error} retry={() => void catalogue.refetch()} />;
  if (catalogue.isPending) return <Loading what="the settings" />;
  const send = (onVersion: number) => {
    if (!dirty || form.blocked || save.isPending) return;
    form.send(
      () => save.mutateAsync({ version: onVersion, settings: changes.body.settings }),
      ({ place }, sent) => {
        form.settled(place, sent);
        announce("Saved to the draft.");
      },
    );
  };
  return (
    <Form of={form} className="space-y-3" onSubmit={() => send(version)}>
      {conflict && (
        <ConflictNotice
          stored={conflict.current}
          message={conflict.message}
          edits={form.value}
          catalogue={catalogue.data}
          onKeepMine={() => send(conflict.current.version)}
          onTakeTheirs={form.reset}
        />
      )}
      <MayChange right="draft" at={domain}>
        <SettingsSheet
          key={form.round}
          domain={domain}
          policy="domain"
          stored={bedrock}
          live={bedrock.live && { settings: bedrock.live }}
          told={(dirty && weighed) || bedrock}
          catalogue={catalogue.data}
          edits={form.value}
          errors={form.errors}
          onEdit={(next) => form.set({ ...next, begunOn: version })}
        />
      </MayChange>
      <Refusal error={form.refusal} />
      {dirty && (
        <SaveBar
          className="-mx-4"
          lines={sentences(bedrock, form.value, catalogue.data)}
          sentence={form.blocked ? "" : (weighed?.sentence ?? "")}
          busy={save.isPending}
          blocked={form.blocked || conflict !== null}
          onDiscard={form.reset}
        />
      )}
    </Form>
  );
}

interface SourcesProps {
  title: string;
  sources: Schemas["GpoSource"][];
  empty: string;
  onOpen: (gpo: string) => void;
  children: string;
}

function Sources({ title, sources, empty, onOpen, children }: SourcesProps) {
  return (
    <section aria-label={title}>
      <PartHead>{title}</PartHead>
      {sources.length === 0 && <EmptyState>{empty}</EmptyState>}
      <ol>
        {sources.map((s) => (
          <li key={s.container + s.name} className="flex gap-2 border-b border-line/60 py-1">
            <span className="font-mono">{s.order}</span>
            <button
              type="button"
              className="truncate text-left underline"
              onClick={() => onOpen(s.gpo)}
            >
              {s.name}
            </button>
            <span className="ml-auto shrink-0 text-xs text-soft">
              {s.at_root
                ? [s.enforced && "enforced", s.disabled && "switched off"]
                    .filter(Boolean)
                    .join(", ")
                : s.container.split(",")[0]}
            </span>
          </li>
        ))}
      </ol>
      <p className="pt-1 text-xs text-soft">{children}</p>
    </section>
  );
}
