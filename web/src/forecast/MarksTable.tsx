import type { Schemas } from "../api/client";
import { spanText } from "../shared/span";
import { Swatch } from "../shared/Swatch";

const KINDS = { policy: "", live: " as it is live", start: ", a starting point" } as const;

/** The plot for those who read numbers. */
export function MarksTable({ plane }: { plane: Schemas["Tradeoff"] }) {
  const heads = [
    "Policy",
    "Threshold",
    plane.plane === "duration" ? "Duration" : "Window",
    "Tries",
    "Chance",
    "Locks by mistake",
  ];
  return (
    <table aria-label="The plot in numbers" className="w-full border-collapse text-left">
      <caption className="pb-1 text-left text-xs text-soft">
        Tries and chance in the life of each policy’s own passwords; locks by mistake in 1,000
        sign-ins.
      </caption>
      <thead>
        <tr className="border-b border-line text-soft">
          {heads.map((head, n) => (
            <th key={head} scope="col" className={`pr-3 font-normal ${n ? "text-right" : ""}`}>
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {plane.marks.map((mark) => (
          <tr key={`${mark.kind} ${mark.key}`} className="border-b border-line/60">
            <th scope="row" className="py-0.5 pr-3 font-medium">
              {mark.kind !== "start" && <Swatch mark={mark.mark} size={12} />} {mark.name}
              <span className="font-normal text-soft">{KINDS[mark.kind]}</span>
            </th>
            {[
              mark.threshold === 0 ? "never locks" : String(mark.threshold),
              mark.span !== null
                ? spanText(mark.span)
                : mark.locks_until_unlocked
                  ? "until unlocked"
                  : "–",
              mark.tries === null ? "no limit" : mark.tries.toLocaleString("en"),
              mark.chance_shown,
              mark.locks_shown,
            ].map((cell, n) => (
              <td key={heads[n + 1]} className="pr-3 text-right font-mono whitespace-nowrap">
                {cell}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
