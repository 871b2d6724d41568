// Where things lie in the plane of the trade-off: thresholds to the right, times upwards, both by
// equal factors; beyond the edges those that lock until unlocked or never.
import type { Box } from "../kit/plot/PlotFrame";
import { scaleLog } from "d3-scale";
import type { Schemas } from "../api/client";

export type PolicyMark = Schemas["PolicyMark"];

/** Room beyond the plane for locks that last until unlocked (above) and policies that never lock. */
const BEYOND = 34;

export function scalesOf(plane: Schemas["Tradeoff"], box: Box) {
  const x = scaleLog([1, plane.most_tries], [box.left + 14, box.right - BEYOND - 14]).clamp(true);
  const y = scaleLog([plane.shortest, plane.longest], [box.bottom, box.top + BEYOND]).clamp(true);
  return {
    x,
    y,
    low: box.bottom - 12,
    beyond: { x: box.right - BEYOND / 2, y: box.top + BEYOND / 2 },
  };
}

export type Scales = ReturnType<typeof scalesOf>;

export interface Place {
  x: number;
  y: number;
}

export function placeOfMark(mark: PolicyMark, { x, y, low, beyond }: Scales): Place {
  const across = mark.threshold === 0 ? beyond.x : x(mark.threshold);
  if (mark.span !== null) return { x: across, y: y(mark.span) };
  return { x: across, y: mark.locks_until_unlocked ? beyond.y : low };
}

/** The threshold and the time, in seconds, at a place: whole tries, and times that people choose. */
export function settingsAt(place: Place, { x, y }: Scales): { threshold: number; span: number } {
  return {
    threshold: Math.max(1, Math.round(x.invert(place.x))),
    span: rounded(y.invert(place.y)),
  };
}

const MINUTE = 60;

/** To the minute, five minutes, the quarter of an hour or the hour, the coarser the longer it is. */
function rounded(seconds: number): number {
  const step =
    seconds < 15 * MINUTE
      ? MINUTE
      : seconds < 60 * MINUTE
        ? 5 * MINUTE
        : seconds < 360 * MINUTE
          ? 15 * MINUTE
          : 60 * MINUTE;
  return Math.max(MINUTE, Math.round(seconds / step) * step);
}

/** How far marks keep apart, and those that are taken by hand. */
const APART = 16;
const HAND = 24;

/**
 * Marks in places of their own: one that would lie on another stands beside it, or above it in the
 * strip of those that never lock. Policies come first: what is taken by hand is where it belongs.
 */
export function spread(marks: PolicyMark[], scales: Scales): Map<PolicyMark, Place> {
  const places = new Map<PolicyMark, Place>();
  const free = (mark: PolicyMark, { x, y }: Place) =>
    [...places].every(([other, at]) => {
      const apart = mark.version !== null && other.version !== null ? HAND : APART;
      return Math.abs(at.x - x) >= apart || Math.abs(at.y - y) >= apart;
    });
  const set = (mark: PolicyMark) => {
    const { x, y } = placeOfMark(mark, scales);
    const step = mark.version === null ? APART : HAND;
    let at = { x, y };
    for (let row = 0; !free(mark, at);) {
      const next = at.x + step;
      if (mark.threshold > 0 && next <= scales.beyond.x) at = { x: next, y: at.y };
      else at = { x, y: y - step * ++row };
    }
    places.set(mark, at);
  };
  for (const mark of marks) if (mark.kind === "policy") set(mark);
  for (const mark of marks) if (mark.kind !== "policy") set(mark);
  return places;
}
