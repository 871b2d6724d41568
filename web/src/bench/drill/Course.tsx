import { useId } from "react";
import { line, curveStepAfter } from "d3-shape";
import { scaleLinear, type ScaleLinear } from "d3-scale";
import type { Schemas } from "../../api/client";
import { lookOf } from "../../shared/look";
import { ticksOf } from "../../kit/plot/time";
import { spanText } from "../../shared/span";
import { joined, type EventAt, type View } from "./story";

const HEIGHT = 84;
const TOP = 18;
const BOTTOM = 18;

/**
 * How a story goes under one policy: the count as steps below the threshold, dotted once it is
 * forgotten; the window in which a bad try is remembered as a band; each lock as a bar with the
 * moment at which it opens.
 */
export function Course({
  column,
  events,
  x,
  view,
}: {
  column: Schemas["DrillColumn"];
  events: EventAt[];
  x: ScaleLinear<number, number>;
  view: View;
}) {
  const [low, high] = x.range() as [number, number];
  const most = Math.max(1, column.threshold, ...column.steps.map((step) => step.bad_count));
  const y = scaleLinear([0, most], [HEIGHT - BOTTOM, TOP]);
  const look = lookOf(column.mark);
  const at = (n: number) => events[n]?.at ?? view.end;
  // When a good try or an operator clears the count that stands after each step.
  const cleared = column.steps.map(() => Infinity);
  column.steps.reduceRight((next, step, n) => {
    cleared[n] = next;
    return step.bad_count === 0 ? at(n) : next;
  }, Infinity);
  const bands = joined(
    column.steps.flatMap((step, n) =>
      step.outcome === "refused" && events[n]?.event === "bad" && step.counts_until !== null
        ? [{ start: at(n), end: Math.min(step.counts_until, cleared[n] ?? Infinity) }]
        : [],
    ),
  );
  const steps = line(
    ([moment]) => x(moment),
    ([, count]) => y(count),
  ).curve(curveStepAfter)([
    [0, 0],
    ...column.steps.map((step, n): [number, number] => [at(n), step.bad_count]),
    [Math.max(view.end, at(column.steps.length - 1)), column.steps.at(-1)?.bad_count ?? 0],
  ]);
  const clip = useId();
  return (
    <svg
      width={high}
      height={HEIGHT}
      role="img"
      aria-label={`${column.said} ${column.rule}`}
      className="block text-[11px]"
    >
      <clipPath id={clip}>
        <rect x={low} y={0} width={high - low} height={HEIGHT} />
      </clipPath>
      {ticksOf(view.start, view.end, 10).map((at) => (
        <path
          key={at}
          d={`M${x(at)} ${TOP}V${HEIGHT - BOTTOM}`}
          stroke="var(--color-line)"
          strokeWidth="1"
        />
      ))}
      <g clipPath={`url(#${clip})`}>
        {bands.map((band) => (
          <rect
            key={band.start}
            x={x(band.start)}
            width={Math.max(1, x(band.end) - x(band.start))}
            y={TOP}
            height={HEIGHT - TOP - BOTTOM}
            fill={look.ink}
            opacity="0.13"
          />
        ))}
        {column.locks.map((lock) => (
          <LockBar key={lock.start} lock={lock} x={x} view={view} />
        ))}
        <path
          d={steps ?? ""}
          fill="none"
          stroke={look.ink}
          strokeWidth="1.5"
          strokeDasharray="2 3"
        />
        <clipPath id={`${clip}-counts`}>
          {bands.map((band) => (
            <rect
              key={band.start}
              x={x(band.start) - 1}
              y={0}
              width={Math.max(2, x(band.end) - x(band.start) + 2)}
              height={HEIGHT}
            />
          ))}
        </clipPath>
        <g clipPath={`url(#${clip}-counts)`}>
          <path d={steps ?? ""} fill="none" stroke={look.ink} strokeWidth="2.5" />
        </g>
      </g>
      <path d={`M${low} ${HEIGHT - BOTTOM}H${high}`} stroke="var(--color-edge)" strokeWidth="1" />
      {column.threshold > 0 && (
        <path
          d={`M${low} ${y(column.threshold)}H${high}`}
          stroke="var(--color-fail)"
          strokeDasharray="4 3"
        />
      )}
      <text x={low - 6} y={y(0)} textAnchor="end" fill="var(--color-soft)" className="font-mono">
        0
      </text>
      {column.threshold > 0 && (
        <text
          x={low - 6}
          y={y(column.threshold) + 4}
          textAnchor="end"
          fill="var(--color-fail)"
          className="font-mono"
        >
          {column.threshold}
        </text>
      )}
    </svg>
  );
}

/** A lock, with what it says beside its end. */
function LockBar({
  lock,
  x,
  view,
}: {
  lock: Schemas["LockInfo"];
  x: ScaleLinear<number, number>;
  view: View;
}) {
  const start = x(lock.start);
  const end = x(lock.end ?? view.end);
  const said =
    lock.end === null
      ? "locked until unlocked"
      : `${lock.by_hand ? "unlocked" : "opens"} at ${spanText(lock.end)}`;
  return (
    <g>
      <rect
        x={start}
        y={TOP}
        width={Math.max(2, end - start)}
        height={HEIGHT - TOP - BOTTOM}
        fill="var(--color-failbg)"
      />
      <rect x={start} y={2} width={Math.max(2, end - start)} height={13} fill="var(--color-fail)" />
      {end - start > said.length * 6.2 && (
        <text x={start + 5} y={12} fill="var(--color-white)">
          {said}
        </text>
      )}
    </g>
  );
}

/** The times below the charts. */
export function TimeAxis({ x, view }: { x: ScaleLinear<number, number>; view: View }) {
  const [, high] = x.range() as [number, number];
  return (
    <svg width={high} height={16} aria-hidden className="block text-[11px]">
      {ticksOf(view.start, view.end, 10).map((at) => (
        <text
          key={at}
          x={x(at)}
          y={12}
          textAnchor={x(at) > high - 30 ? "end" : "middle"}
          fill="var(--color-soft)"
        >
          {spanText(at)}
        </text>
      ))}
    </svg>
  );
}
