import type { Schemas } from "../api/client";
import { useCatalogue } from "../api/queries";
import { Loading } from "../shared/controls";
import { plural } from "../shared/span";
import { valueWithUnit, type Value } from "./edits";
import { PanelHead } from "./PanelHead";

/** The domain policy and the group policy objects that write it. */
export function BedrockPanel({ strata, onClose }: { strata: Schemas["Strata"]; onClose: () => void }) {
  const catalogue = useCatalogue();
  const { bedrock } = strata;
  const root = bedrock.sources.filter((s) => s.at_root);
  const elsewhere = bedrock.sources.filter((s) => !s.at_root);
  return (
    <div>
      <PanelHead mark={null} title="Bedrock: domain policy" detail={`Holds for ${plural(bedrock.governed, "account")}`} onClose={onClose} />
      <div className="space-y-4 px-4 pb-4">
        {catalogue.data ? (
          <dl className="grid grid-cols-[1fr_auto] gap-y-1">
            {catalogue.data.map((setting) => (
              <div key={setting.key} className="contents">
                <dt className="border-b border-line/60 py-0.5">{setting.label}</dt>
                <dd className="border-b border-line/60 py-0.5 text-right font-mono">
                  {valueWithUnit(setting, bedrock.settings[setting.key] as Value)}
                </dd>
              </div>
            ))}
          </dl>
        ) : (
          <Loading what="the settings" />
        )}
        <Sources title="Written from, first one first" empty="No group policy object at the domain root was read." sources={root}>
          Setting by setting, the first of these that says something wins. What each one says stands in its template, which a directory dump does not hold.
        </Sources>
        {elsewhere.length > 0 && (
          <Sources title="Linked elsewhere" sources={elsewhere} empty="">
            Account settings in these govern only the local accounts of computers below; they never change what a domain account gets.
          </Sources>
        )}
      </div>
    </div>
  );
}

function Sources({ title, sources, empty, children }: { title: string; sources: Schemas["GpoSource"][]; empty: string; children: string }) {
  return (
    <section aria-label={title}>
      <h3 className="border-b border-line pb-0.5 text-sm">{title}</h3>
      {sources.length === 0 && <p className="py-1 text-soft">{empty}</p>}
      <ol>
        {sources.map((s) => (
          <li key={s.container + s.name} className="flex gap-2 border-b border-line/60 py-1">
            <span className="font-mono">{s.order}</span>
            <span className="truncate">{s.name}</span>
            <span className="ml-auto shrink-0 text-xs text-soft">
              {s.at_root ? [s.enforced && "enforced", s.disabled && "switched off"].filter(Boolean).join(", ") : s.container.split(",")[0]}
            </span>
          </li>
        ))}
      </ol>
      <p className="pt-1 text-xs text-soft">{children}</p>
    </section>
  );
}
