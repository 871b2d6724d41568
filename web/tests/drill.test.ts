import { describe, expect, test } from "vitest";
import {
  clustersOf,
  joined,
  moved,
  nudge,
  panned,
  without,
  zoomed,
  type EventAt,
} from "../src/bench/drill/story";
import { settingsAt, scalesOf, spread, placeOfMark, type PolicyMark } from "../src/forecast/plane";
import { stepFor, ticksOf } from "../src/kit/plot/time";
import type { Schemas } from "../src/api/client";

const at = (...moments: number[]): EventAt[] => moments.map((at) => ({ at, event: "bad" }));

describe("events on the time line", () => {
  test("those too close to be told apart are one, those that are chosen stay alone", () => {
    const events = at(0, 5, 9, 60);
    expect(clustersOf(events, 6).map((c) => c.events)).toEqual([[0, 1, 2], [3]]);
    expect(clustersOf(events, 6, [1]).map((c) => c.events)).toEqual([[0], [1], [2], [3]]);
    expect(clustersOf([...events, { at: 61, event: "good" }], 6)).toHaveLength(3);
  });

  test("they are taken in the order of time, whatever their numbers", () => {
    expect(clustersOf(at(90, 0, 45), 6).map((c) => c.events[0])).toEqual([1, 2, 0]);
  });

  test("none is moved to before the beginning, and what moves together stays together", () => {
    expect(moved(at(10, 20, 90), [0, 1], -15).map((e) => e.at)).toEqual([0, 10, 90]);
    expect(moved(at(10, 20), [1], 5).map((e) => e.at)).toEqual([10, 25]);
    expect(without(at(1, 2, 3), [1]).map((e) => e.at)).toEqual([1, 3]);
  });
});

describe("what is in view", () => {
  const whole = { start: 0, end: 1000 };

  test("coming closer stays inside, going away ends with all of it", () => {
    const near = zoomed(whole, 4, whole);
    expect(near).toEqual({ start: 375, end: 625 });
    expect(panned(near, -2, whole)).toEqual({ start: 0, end: 250 });
    expect(panned(near, 9, whole)).toEqual({ start: 750, end: 1000 });
    expect(zoomed(near, 0.1, whole)).toBe(whole);
    expect(zoomed({ start: 0, end: 4 }, 8, whole).end).toBe(4);
  });

  test("ticks are whole seconds, minutes, hours or days, and arrow keys a tenth of them", () => {
    expect(stepFor(3600, 10)).toBe(600);
    expect(ticksOf(0, 3600, 6)).toEqual([0, 600, 1200, 1800, 2400, 3000, 3600]);
    expect(ticksOf(61, 119, 5)).toEqual([75, 90, 105].filter((n) => n % stepFor(58, 5) === 0));
    expect(nudge({ start: 0, end: 3600 })).toBe(60);
    expect(nudge({ start: 0, end: 5 })).toBe(1);
  });

  test("stretches that touch are one", () => {
    const stretches = [
      { start: 0, end: 5 },
      { start: 4, end: 9 },
      { start: 9, end: 10 },
      { start: 11, end: 12 },
    ];
    expect(joined(stretches)).toEqual([
      { start: 0, end: 10 },
      { start: 11, end: 12 },
    ]);
  });
});

describe("marks in the plane", () => {
  const plane = { most_tries: 50, shortest: 60, longest: 604800 } as Schemas["Tradeoff"];
  const scales = scalesOf(plane, { left: 60, right: 800, top: 40, bottom: 500 });
  const mark = (threshold: number, span: number | null, endless = false) =>
    ({ kind: "policy", version: 1, threshold, span, locks_until_unlocked: endless }) as PolicyMark;

  test("where a mark is put says what it stands for", () => {
    for (const [threshold, span] of [
      [1, 60],
      [5, 1800],
      [20, 86400],
      [50, 604800],
    ] as const)
      expect(settingsAt(placeOfMark(mark(threshold, span), scales), scales)).toEqual({
        threshold,
        span,
      });
    expect(settingsAt({ x: -100, y: 9999 }, scales)).toEqual({ threshold: 1, span: 60 });
  });

  test("those that would lie on one another stand side by side", () => {
    const start: PolicyMark = { ...mark(5, 1800), kind: "start", version: null };
    const marks = [
      start,
      ...[5, 5, 5, 50, 50].map((tries) => mark(tries, 1800)),
      ...[mark(0, null), mark(0, null), mark(4, null, true)],
    ];
    const places = spread(marks, scales);
    for (const [one, a] of places)
      for (const [other, b] of places) {
        if (one === other) continue;
        const far = Math.max(Math.abs(a.x - b.x), Math.abs(a.y - b.y));
        // What is taken by hand keeps a finger's width from its like.
        expect(far).toBeGreaterThanOrEqual(one === start || other === start ? 16 : 24);
      }
    for (const { x } of places.values()) expect(x).toBeLessThanOrEqual(scales.beyond.x);
    expect(places.get(marks[1] as PolicyMark)).toEqual(placeOfMark(mark(5, 1800), scales));
  });
});
