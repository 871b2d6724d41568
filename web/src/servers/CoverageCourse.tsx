import type { Schemas } from "../api/client";
import { dayText } from "../shared/moments";

const WIDTH = 180;
const HEIGHT = 22;

/** How many agreed, day by day: steps from reading to reading, held against what counts now. */
export function CoverageCourse({ days }: { days: Schemas["ServerDay"][] }) {
  const first = days[0];
  const last = days.at(-1);
  if (!first || !last || days.length < 2) return null;
  const moment = (one: Schemas["ServerDay"]) => Date.parse(one.day);
  const end = Math.max(Date.now(), moment(last));
  const span = Math.max(end - moment(first), 1);
  const most = Math.max(...days.map((one) => one.agree + one.differ + one.unread), 1);
  const x = (at: number) => ((at - moment(first)) / span) * WIDTH;
  const y = (count: number) => HEIGHT - (count / most) * HEIGHT;
  const steps = (count: (one: Schemas["ServerDay"]) => number) => {
    const along = days.map((one, at) => {
      const next = days[at + 1];
      const to = next ? moment(next) : end;
      return `H${x(moment(one))}V${y(count(one))}H${x(to)}`;
    });
    return `M0 ${HEIGHT}${along.join("")}V${HEIGHT}Z`;
  };
  const told = days
    .map(
      (one) =>
        `${dayText(`${one.day}T00:00`)}: ${one.agree} of ${one.agree + one.differ + one.unread}`,
    )
    .join("; ");
  return (
    <figure className="flex items-center gap-2 text-xs text-soft small:hidden" title={told}>
      <figcaption>agreeing since {dayText(`${first.day}T00:00`)}</figcaption>
      <svg width={WIDTH} height={HEIGHT} role="img" aria-label={`How many agreed: ${told}`}>
        <path d={steps((one) => one.agree + one.differ + one.unread)} className="fill-hover" />
        <path d={steps((one) => one.agree)} className="fill-soft" />
      </svg>
    </figure>
  );
}
