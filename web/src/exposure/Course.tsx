import { EmptyState } from "../kit/EmptyState";
import type { Schemas } from "../api/client";
import { dayText, momentText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";
import { plural } from "../shared/span";

type Run = Schemas["ExposureRun"];

const WIDTH = 320;
const HEIGHT = 64;

/** How many were known to others, comparison by comparison. */
export function Course({ runs }: { runs: Run[] }) {
  const course = [...runs].reverse();
  const first = course[0];
  const last = course.at(-1);
  return (
    <section aria-label="Over time">
      <PartHead level={2}>Over time</PartHead>
      {!first || !last || course.length < 2 ? (
        <EmptyState>
          {first ? `${plural(first.exposed, "account")} at first. ` : ""}Each comparison from now on
          adds a step.
        </EmptyState>
      ) : (
        <Steps course={course} first={first} last={last} />
      )}
    </section>
  );
}

function Steps({ course, first, last }: { course: Run[]; first: Run; last: Run }) {
  const most = Math.max(...course.map((run) => run.exposed), 1);
  const begun = Date.parse(first.at);
  const span = Math.max(Date.parse(last.at) - begun, 1);
  const x = (run: Run) => ((Date.parse(run.at) - begun) / span) * (WIDTH - 8);
  const y = (run: Run) => HEIGHT - (run.exposed / most) * (HEIGHT - 4);
  const steps = course.map((run, at) => `${at ? "H" : "M"}${x(run)}${at ? "V" : " "}${y(run)}`);
  const told = course.map((run) => `${momentText(run.at)}: ${run.exposed}`).join("; ");
  return (
    <figure title={told}>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT + 2}`}
        className="block w-full"
        role="img"
        aria-label={`Known to others: ${told}`}
      >
        <path d={`M0 ${HEIGHT + 1}H${WIDTH}`} className="stroke-line" fill="none" />
        <path
          d={`${steps.join("")}H${WIDTH}`}
          className="stroke-ink"
          fill="none"
          strokeWidth="1.5"
        />
      </svg>
      <figcaption className="flex justify-between text-xs text-soft">
        <span>{dayText(first.at)}</span>
        <span>
          {last.exposed.toLocaleString("en")} now, {most.toLocaleString("en")} at most
        </span>
      </figcaption>
    </figure>
  );
}
