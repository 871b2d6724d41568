// Where things lie in the plane of the trade-off: thresholds to the right, times upwards, both by
// equal factors; beyond the edges those that lock until unlocked or never.
import { scaleLog } from "d3-scale";
import type { Schemas } from "../api/client";

export type PolicyMark = Schemas["PolicyMark"];

export interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

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

const APART = 15;

/**
 * Marks in places of their own: those that would lie on one another stand side by side, or
 * one above the other in the strip of those that never lock.
 */
export function spread(marks: PolicyMark[], scales: Scales): Map<PolicyMark, Place> {
  const taken: { at: Place; many: number }[] = [];
  const places = new Map<PolicyMark, Place>();
  for (const mark of marks) {
    const at = placeOfMark(mark, scales);
    const spot = taken.find(
      (other) => Math.abs(other.at.x - at.x) < APART && Math.abs(other.at.y - at.y) < APART,
    );
    if (spot) {
      const by = spot.many * (APART + 1);
      // In the narrow strip at the right edge one above the other.
      places.set(
        mark,
        mark.threshold === 0
          ? { x: spot.at.x, y: spot.at.y - by }
          : { x: spot.at.x + by, y: spot.at.y },
      );
      spot.many += 1;
    } else {
      taken.push({ at, many: 1 });
      places.set(mark, at);
    }
  }
  return places;
}
