import { useParams } from "react-router";
import { useBaseline, useBaselines } from "../api/baselines";
import type { Schemas } from "../api/client";
import { SidePanel } from "../kit/SidePanel";
import { domainOf } from "../draft/place";
import { Failure, Loading } from "../kit/Loading";
import { Select } from "../kit/inputs";
import { plural } from "../shared/span";
import { useTitle } from "../shared/useTitle";
import { useUrlState } from "../shared/useUrlState";
import { BaselineTable } from "./BaselineTable";
import { BesideTable } from "./BesideTable";
import { RecommendationPanel } from "./RecommendationPanel";

/** How far a domain follows recommendations, and where the gaps are. */
export function BaselinesScreen() {
  const { domain = "" } = useParams();
  const [given, setName] = useUrlState("baseline");
  const [chosen, choose] = useUrlState("recommendation");
  const [beside, setBeside] = useUrlState("beside");
  const known = useBaselines();
  const name = given || known.data?.baselines[0]?.name || "";
  const found = useBaseline(domain, name);
  const row = found.data?.rows.find((one) => one.key === chosen);
  useTitle("Baselines", domainOf(domain));
  return (
    <div className="flex h-full flex-col px-4 pt-2.5 pb-3 small:px-2 small:pt-1">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h1 className="text-base">Baselines</h1>
        <Select
          aria-label="Baseline"
          value={name}
          onChange={(event) => setName(event.target.value, { recommendation: "", beside: "" })}
        >
          {known.data?.baselines.map((one) => (
            <option key={one.name} value={one.name}>
              {one.title}
            </option>
          ))}
        </Select>
        <label className="flex min-w-0 items-center gap-1.5">
          beside
          <Select
            className="max-w-52"
            value={beside}
            onChange={(event) => setBeside(event.target.value, { recommendation: "" })}
          >
            <option value="">the domain</option>
            {known.data?.baselines
              .filter((one) => one.name !== name)
              .map((one) => (
                <option key={one.name} value={one.name}>
                  {one.title}
                </option>
              ))}
          </Select>
        </label>
        {found.data && !beside && <span className="text-soft">{summary(found.data.rows)}</span>}
      </div>
      <p className="mt-1 mb-2 max-w-[860px] text-soft small:hidden">{found.data?.baseline.about}</p>
      {(known.error ?? found.error) && (
        <Failure
          error={known.error ?? found.error}
          retry={() => {
            void known.refetch();
            void found.refetch();
          }}
        />
      )}
      {known.data?.files.map((one) => (
        <p key={one.file} className="text-warn">
          △ {one.file} is no baseline. {one.problem}
        </p>
      ))}
      {beside && name && <BesideTable name={name} other={beside} />}
      {found.isPending && !known.error && !beside && <Loading what="how far it is followed" />}
      {found.data && !beside && (
        <div
          tabIndex={0}
          role="group"
          aria-label="Answers"
          className="min-h-0 flex-1 overflow-auto outline-offset-[-2px]"
        >
          <BaselineTable answer={found.data} chosen={chosen} onChoose={choose} />
          <p className="sticky left-0 mt-2 max-w-[860px] text-xs text-soft">
            <span className="text-pass">✓</span> met <span className="ml-2 text-fail">✕</span> not
            met <span className="ml-2 text-warn">?</span> cannot be told{" "}
            <span className="ml-2">·</span> not meant. Columns are the populations of the section;
            each has the gravest answer that any of its accounts has.
            {found.data.unlisted > 0 &&
              ` ${plural(found.data.unlisted, "small population")} count in the sums and have no column.`}
          </p>
        </div>
      )}
      <SidePanel about={row && !beside ? `${name} ${row.key}` : ""}>
        {row && !beside && (
          <RecommendationPanel
            domain={domain}
            baseline={name}
            row={row}
            onClose={() => choose("")}
          />
        )}
      </SidePanel>
    </div>
  );
}

function summary(rows: Schemas["BaselineRow"][]): string {
  const count = (state: Schemas["BaselineRow"]["state"]) =>
    rows.filter((row) => row.state === state).length;
  const accepted = rows.filter((row) => row.accepted !== null).length;
  const turned = rows.filter((row) => row.state_live !== null).length;
  const parts = [
    `${count("met")} of ${rows.length} met`,
    count("not met") > 0 && `${count("not met")} not met`,
    count("cannot tell") > 0 && `${count("cannot tell")} cannot be told`,
    accepted > 0 && `${accepted} accepted as it is`,
    turned > 0 && `this draft turns ${plural(turned, "answer")}`,
  ];
  return parts.filter(Boolean).join(" · ");
}
