import type { Schemas } from "../api/client";

type Place = Schemas["PlaceInfo"];
type Group = NonNullable<Place["group"]>;

const GROUPS: Record<Group | "none", { sign: string; label: string; tone: string }> = {
  upper: { sign: "A", label: "uppercase", tone: "border-[#8d3f36]" },
  lower: { sign: "a", label: "lowercase", tone: "border-[#3b5d8c]" },
  digit: { sign: "1", label: "digits", tone: "border-[#7c5d0f]" },
  symbol: { sign: "#", label: "symbols", tone: "border-[#634679]" },
  caseless: { sign: "文", label: "without case", tone: "border-[#2f6668]" },
  none: { sign: "–", label: "no group", tone: "border-edge border-dashed" },
};
const ORDER = ["upper", "lower", "digit", "symbol", "caseless", "none"] as const;

/** The candidate character by character: which group each falls in, and which counts for two. */
export function Strip({
  candidate,
  places,
  shown,
}: {
  candidate: string;
  places: Place[];
  shown: boolean;
}) {
  const characters = Array.from(candidate);
  // A keystroke ahead of the answer: the strip waits for it rather than mislabel.
  if (characters.length !== places.length) return <div />;
  const counts = ORDER.map((group) => ({
    group,
    count: places.filter((p) => (p.group ?? "none") === group).length,
  }));
  return (
    <div className="flex min-w-0 items-center gap-4">
      <ol
        aria-label="Characters of the candidate by group"
        tabIndex={0}
        className="flex min-w-24 overflow-x-auto overflow-y-hidden"
      >
        {places.map((place, n) => {
          const { sign, label, tone } = GROUPS[place.group ?? "none"];
          return (
            <li
              key={n}
              title={`${label}${place.units > 1 ? `, counts for ${place.units}` : ""}`}
              className={`grid shrink-0 justify-items-center ${place.units > 1 ? "w-7" : "w-4"}`}
            >
              <span
                aria-hidden
                className={`w-[calc(100%-2px)] border-b-[3px] text-center font-mono text-sm leading-[18px] whitespace-pre ${tone}`}
              >
                {shown ? visible(characters[n] ?? "") : "•"}
              </span>
              <span aria-hidden className="text-[10px] leading-[12px] text-soft">
                {sign}
                {place.units > 1 && `×${place.units}`}
              </span>
              <span className="sr-only">{label}</span>
            </li>
          );
        })}
      </ol>
      <p
        title={counts
          .filter((c) => c.count > 0)
          .map(({ group, count }) => `${GROUPS[group].label} ${count}`)
          .join(", ")}
        className="flex h-4 min-w-0 shrink-[999] flex-wrap gap-x-2.5 overflow-hidden text-xs text-soft"
      >
        {counts
          .filter((c) => c.count > 0)
          .map(({ group, count }) => (
            <span key={group} className="whitespace-nowrap">
              <span className="font-mono text-ink">{GROUPS[group].sign}</span> {GROUPS[group].label}{" "}
              {count}
            </span>
          ))}
      </p>
    </div>
  );
}

/** What would not be seen gets a sign of its own. */
function visible(character: string): string {
  if (character === " ") return "␣";
  return /[\p{Cc}\p{Cf}\p{Cs}\p{Zs}]/u.test(character) ? "▯" : character;
}
