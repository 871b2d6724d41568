import type { Schemas } from "../api/client";
import { spanText } from "../shared/span";
import { MarkedTable } from "./MarkedTable";

const KINDS = {
  policy: "",
  live: " as it is live",
  start: ", a starting point",
  baseline: ", as a baseline wants it",
} as const;

/** The trade-off for those who read numbers. */
export function MarksTable({ plane }: { plane: Schemas["Tradeoff"] }) {
  return (
    <MarkedTable
      heads={[
        "Threshold",
        plane.plane === "duration" ? "Duration" : "Window",
        "Tries",
        "Chance",
        "Locks by mistake",
      ]}
      rows={plane.marks.map((mark) => ({
        key: `${mark.kind} ${mark.key}`,
        mark: mark.kind === "start" ? undefined : mark.mark,
        name: mark.name,
        as: KINDS[mark.kind],
        cells: [
          mark.threshold === 0 ? "never locks" : String(mark.threshold),
          mark.span !== null
            ? spanText(mark.span)
            : mark.locks_until_unlocked
              ? "until unlocked"
              : "–",
          mark.tries === null ? "no limit" : mark.tries.toLocaleString("en"),
          mark.chance_shown,
          mark.locks_shown,
        ],
      }))}
    >
      Tries and chance in the life of each policy’s own passwords; locks by mistake in 1,000
      sign-ins.
    </MarkedTable>
  );
}
