import { useState } from "react";
import { ApiError, type Schemas } from "../api/client";
import { useCatalogue, useWeighedEdit } from "../api/policies";
import { useEditBedrock } from "../api/sources";
import { announce } from "../shared/announce";
import { focusAfterwards } from "../shared/focus";
import { Button, Failed, Loading, Notice } from "../shared/controls";
import { settleKept, useKept } from "../shared/kept";
import { plural } from "../shared/span";
import { useUrlState } from "../shared/useUrlState";
import { NO_EDITS, unedited, type Edits } from "./edits";
import { Attributes } from "./Attributes";
import { Origins } from "./Origins";
import { PolicyOnBench } from "../bench/PolicyOnBench";
import { PanelHead } from "./PanelHead";
import { SettingsSheet } from "./SettingsSheet";
import { SourceSheet } from "./SourceSheet";
import { at } from "../draft/place";

/** The domain policy and the group policy objects that write it. */
export function BedrockPanel({
  domain,
  strata,
  onClose,
}: {
  domain: string;
  strata: Schemas["Strata"];
  onClose: () => void;
}) {
  const { bedrock } = strata;
  const root = bedrock.sources.filter((s) => s.at_root);
  const elsewhere = bedrock.sources.filter((s) => !s.at_root);
  const [shown, setShown] = useUrlState("source");
  const open = bedrock.sources.find((s) => s.gpo === shown);
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
  const [edits, setEdits, forget] = useKept<Edits>(work, NO_EDITS, unedited);
  const [round, setRound] = useState(0);
  const changed = Object.fromEntries(
    Object.entries(edits.settings).filter(([key, value]) => bedrock.settings[key] !== value),
  );
  const dirty = Object.keys(changed).length > 0;
  const weighed = useWeighedEdit(
    domain,
    dirty ? { policy: "domain", settings: changed } : null,
  ).data;
  if (catalogue.error)
    return <Failed error={catalogue.error} retry={() => void catalogue.refetch()} />;
  if (catalogue.isPending) return <Loading what="the settings" />;
  const unreadable = Object.values(edits.unreadable ?? {}).some(Boolean);
  const refused = save.error instanceof ApiError ? save.error : null;
  const errors: Record<string, string> = Object.fromEntries(
    (refused?.fields ?? []).map((f) => [f.field, f.message]),
  );
  for (const [key, message] of Object.entries(edits.unreadable ?? {}))
    if (message) errors[key] = message;
  const reset = () => {
    forget();
    setRound((n) => n + 1);
    save.reset();
  };
  return (
    <form
      noValidate
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (unreadable) return;
        const focus = focusAfterwards();
        void save.mutateAsync(changed).then(({ place }) => {
          if (settleKept(work, edits, place)) reset();
          announce("Saved to the draft.");
        }, focus.onRefused);
      }}
    >
      <SettingsSheet
        key={round}
        policy={{
          settings: bedrock.settings,
          problems: bedrock.problems,
          live: bedrock.live
            ? { name: "", precedence: 0, settings: bedrock.live, links: [] }
            : null,
        }}
        weighed={dirty ? weighed : undefined}
        catalogue={catalogue.data}
        edits={edits}
        errors={errors}
        onEdit={(next) => {
          save.reset();
          setEdits(next);
        }}
      />
      {refused && refused.fields.length === 0 && (
        <Notice tone="fail" role="alert">
          {refused.message}
        </Notice>
      )}
      {dirty && <p className="min-h-[18px] font-medium">{!unreadable && weighed?.sentence}</p>}
      {(dirty || unreadable) && (
        <div className="flex gap-2">
          <Button tone="main" type="submit" disabled={save.isPending || unreadable}>
            Save to draft
          </Button>
          <Button onClick={reset}>Discard</Button>
        </div>
      )}
    </form>
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
      <h3 className="border-b border-line pb-0.5 text-sm">{title}</h3>
      {sources.length === 0 && <p className="py-1 text-soft">{empty}</p>}
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
