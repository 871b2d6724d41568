import type { Schemas } from "../api/client";
import { MarkedTable } from "./MarkedTable";

const HEADS = ["Tries", "Chance", "Minutes a year", "Changes", "Characters", "Locks"] as const;

/** Guess and burden for those who read numbers. */
export function BurdenTable({ forecast }: { forecast: Schemas["BurdenForecast"] }) {
  return (
    <MarkedTable
      heads={HEADS}
      rows={forecast.marks.map((mark) => {
        const wanted = mark.kind === "baseline";
        return {
          key: `${mark.kind} ${mark.key}`,
          mark: wanted ? undefined : mark.mark,
          name: wanted ? forecast.policy_name : mark.name,
          as: wanted ? ` as ${mark.name} wants it` : mark.kind === "live" ? " as it is live" : "",
          cells: [
            mark.tries_shown,
            mark.chance_shown,
            mark.minutes_shown,
            mark.changes_shown,
            mark.characters_shown,
            mark.locks_shown,
          ],
        };
      })}
    >
      Tries and chance within the life of a password; all else of one person in a year.
    </MarkedTable>
  );
}
