import type { Schemas } from "../../api/client";
import { plural, spanText } from "../../shared/span";
import { LANES, type View } from "./story";

/** Lines that are shown at once; who wants the others comes closer. */
const MOST = 60;

const SIGNS = Object.fromEntries(LANES.map((lane) => [lane.kind, lane]));

/** What the person at the keyboard reads at each try in view, those that are alike in one line. */
export function Readings({ column, view }: { column: Schemas["DrillColumn"]; view: View }) {
  const inside = column.runs.filter((run) => run.end >= view.start && run.start <= view.end);
  const shown = inside.slice(0, MOST);
  if (shown.length === 0) return null;
  return (
    <table
      aria-label={`What ${column.account ?? `anybody under ${column.policy_name}`} reads`}
      className="w-full border-collapse text-left text-xs"
    >
      <thead className="sr-only">
        <tr>
          {["When", "What", "Reads", "Bad tries counted"].map((head) => (
            <th key={head} scope="col">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {shown.map((run) => (
          <tr key={run.first} className="border-b border-line/50">
            <th scope="row" className="w-72 py-0.5 pr-3 font-mono font-normal">
              {spanText(run.start)}
              {run.count > 1 && ` – ${spanText(run.end)}`}
            </th>
            <td className="w-24 pr-3 whitespace-nowrap">
              {SIGNS[run.event]?.sign} {run.count > 1 ? `${run.count} ` : ""}
              {SIGNS[run.event]?.label}
            </td>
            <td className="pr-3">{run.reads}</td>
            <td className="text-right font-mono whitespace-nowrap">
              {run.bad_count} counted{run.locks && <b className="text-fail"> · locks</b>}
            </td>
          </tr>
        ))}
      </tbody>
      {inside.length > MOST && (
        <caption className="caption-bottom text-left text-soft">
          … {plural(inside.length - MOST, "more line")}. Come closer to see them.
        </caption>
      )}
    </table>
  );
}
