import type { Schemas } from "../api/client";
import { spanText } from "../shared/span";

/** The life of a password as a bar: too young to change, free to change, expired. */
export function AgeBar({
  course,
  bedrock,
}: {
  course: Schemas["CourseInfo"];
  bedrock: number | null;
}) {
  const { changeable_after: low, expires_after: end } = course;
  const scale = Math.max(end ?? 0, bedrock ?? 0, low, 86_400) * 1.15;
  const x = (seconds: number) => `${Math.min(100, (100 * seconds) / scale)}%`;
  return (
    <div aria-hidden className="relative mt-2 h-8 text-[11px] text-soft">
      <div className="absolute inset-x-0 top-1 h-2 rounded-full bg-unused" />
      <div
        className="absolute top-1 h-2 rounded-full bg-used"
        style={{ left: x(low), right: end === null ? 0 : `calc(100% - ${x(end)})` }}
      />
      {bedrock !== null && bedrock > 0 && (
        <div
          className="absolute top-0 h-4 border-l-2 border-dotted border-ink"
          style={{ left: x(bedrock) }}
        />
      )}
      <span className="absolute top-[18px] left-0">
        {low > 0 ? `changeable after ${spanText(low)}` : "changeable at once"}
      </span>
      <span className="absolute top-[18px] right-0">
        {end === null ? "never expires" : `expires after ${spanText(end)}`}
      </span>
    </div>
  );
}
