import { expect, test } from "vitest";
import type { Schemas } from "../src/api/client";
import { placeOfMark, scalesOf, settingsAt, spread, type PolicyMark } from "../src/forecast/plane";
import { stepOf } from "../src/kit/plot/steps";
import { stepFor, ticksOf } from "../src/kit/plot/time";

const PLANE = { most_tries: 100, shortest: 60, longest: 86_400 } as Schemas["Tradeoff"];
const BOX = { left: 50, right: 650, top: 10, bottom: 310 };
const SCALES = scalesOf(PLANE, BOX);

const mark = (given: Partial<PolicyMark>) =>
  ({ kind: "policy", version: 1, threshold: 5, span: 1800, ...given }) as PolicyMark;

test("a mark that is put somewhere has the settings of that place", () => {
  for (const threshold of [1, 3, 10, 50, 100])
    for (const span of [60, 300, 900, 3600, 6 * 3600, 12 * 3600])
      expect(settingsAt(placeOfMark(mark({ threshold, span }), SCALES), SCALES)).toEqual({
        threshold,
        span,
      });
});

test("never locks lies beyond the right edge, until unlocked beyond the upper one", () => {
  const never = placeOfMark(mark({ threshold: 0, span: null }), SCALES);
  const until = placeOfMark(mark({ span: null, locks_until_unlocked: true }), SCALES);
  const usual = placeOfMark(mark({}), SCALES);
  expect(never.x).toBeGreaterThan(SCALES.x(100));
  expect(until.y).toBeLessThan(SCALES.y(86_400));
  expect(until.x).toBe(usual.x);
});

test("marks in one place stand apart, and a policy stays where it belongs", () => {
  const marks = [
    mark({ kind: "baseline" as PolicyMark["kind"] }),
    ...Array.from({ length: 12 }, () => mark({})),
    ...Array.from({ length: 5 }, () => mark({ threshold: 0, span: null })),
  ];
  const places = [...spread(marks, SCALES)];
  expect(places).toHaveLength(marks.length);
  for (const [n, [, one]] of places.entries())
    for (const [, other] of places.slice(n + 1))
      expect(Math.max(Math.abs(one.x - other.x), Math.abs(one.y - other.y))).toBeGreaterThanOrEqual(
        16,
      );
  expect(places[0]?.[1]).toEqual(placeOfMark(mark({}), SCALES));
});

test("axes have few ticks, on round steps, within their ends", () => {
  for (const most of [1, 3, 9, 40, 1184, 99_999]) {
    expect(most / stepOf(most)).toBeLessThanOrEqual(5);
    expect(String(stepOf(most))).toMatch(/^(1|2|5)0*$/);
  }
  for (const [from, to] of [
    [0, 90],
    [-3600, 7200],
    [13, 400 * 86_400],
  ] as const) {
    const ticks = ticksOf(from, to, 8);
    expect(ticks.length).toBeLessThanOrEqual(9);
    expect(Math.min(...ticks)).toBeGreaterThanOrEqual(from);
    expect(Math.max(...ticks)).toBeLessThanOrEqual(to);
    expect(ticks.every((tick) => tick % stepFor(to - from, 8) === 0)).toBe(true);
  }
});
