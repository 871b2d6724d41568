import { expect, test } from "vitest";
import { fieldText, parseMoment } from "../src/shared/moments";

test("a moment that is shown in a field is read as the same moment", () => {
  for (let n = 0; n < 400; n++) {
    const at = new Date(2024, 0, 1 + n * 3, (n * 7) % 24, (n * 13) % 60, n % 3 ? 0 : (n * 17) % 60);
    expect(parseMoment(fieldText(at))).toEqual(at);
    const day = new Date(at.getFullYear(), at.getMonth(), at.getDate());
    expect(parseMoment(fieldText(at, true))).toEqual(day);
  }
});

test.each([
  ["2026-03-02 09:30", new Date(2026, 2, 2, 9, 30)],
  ["2026-3-2T09:30:15", new Date(2026, 2, 2, 9, 30, 15)],
  ["  2  March 2026 ", new Date(2026, 2, 2)],
  ["2. mar. 2026, 9:30", new Date(2026, 2, 2, 9, 30)],
])("%s is a moment", (text, at) => {
  expect(parseMoment(text)).toEqual(at);
});

test.each([
  "",
  "soon",
  "31 Feb 2026",
  "2026-13-01",
  "2 Mar 2026, 24:00",
  "2 Mar 2026, 09:60",
  "2 Xyz 2026",
])("“%s” is none", (text) => {
  expect(parseMoment(text)).toBeUndefined();
});
