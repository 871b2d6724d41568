// Axes of time: seconds as people count them, in steps of whole minutes, hours or days.
const MINUTE = 60;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;

const STEPS = [
  ...[1, 2, 5, 10, 15, 30],
  ...[1, 2, 5, 10, 15, 30].map((n) => n * MINUTE),
  ...[1, 2, 3, 6, 12].map((n) => n * HOUR),
  ...[1, 2, 7, 14, 30, 60, 120].map((n) => n * DAY),
];

/** The distance between two ticks, in seconds, with which a span has about so many of them. */
export const stepFor = (span: number, many: number): number =>
  STEPS.find((step) => span / step <= many) ?? 120 * DAY;

/** Ticks from one end to the other, both included where they fall on one. */
export function ticksOf(from: number, to: number, many: number): number[] {
  const step = stepFor(to - from, many);
  const first = Math.ceil(from / step);
  return Array.from(
    { length: Math.max(0, Math.floor(to / step) - first + 1) },
    (_, n) => (first + n) * step,
  );
}

/** Ticks of an axis of times that goes up by equal factors. */
export const FACTOR_TICKS = [
  MINUTE,
  5 * MINUTE,
  15 * MINUTE,
  30 * MINUTE,
  HOUR,
  3 * HOUR,
  6 * HOUR,
  DAY,
  3 * DAY,
  7 * DAY,
];
