import { describe, expect, test } from "vitest";
import { awayText, parseSpan, plural, spanText } from "../src/shared/span";

describe("spans", () => {
  test.each([
    ["45d", "days", 45 * 86_400],
    ["30 min", "days", 1_800],
    ["1 h 30 min", "minutes", 5_400],
    ["1.5 h", "minutes", 5_400],
    ["1,000 d", "days", 86_400_000],
    ["7", "days", 7 * 86_400],
    ["7", "minutes", 420],
    [" 2 Days ", "minutes", 172_800],
    ["0", "days", 0],
  ] as const)("%s, bare numbers in %s", (typed, bare, seconds) => {
    expect(parseSpan(typed, bare)).toBe(seconds);
  });

  test.each(["", "soon", "5 fortnights", "-3 d", "d", "3 d and 2", "1..5 h", "3 d x"])(
    "“%s” is no span",
    (typed) => {
      expect(parseSpan(typed, "days")).toBeUndefined();
    },
  );

  test("what is shown can be typed again", () => {
    for (let seconds = 0; seconds < 400 * 86_400; seconds = seconds * 3 + 1)
      expect(parseSpan(spanText(seconds), "minutes")).toBe(seconds);
  });

  test("an endless one is called what it means, a negative one stays odd", () => {
    expect(spanText(null)).toBe("never");
    expect(spanText(null, "until unlocked")).toBe("until unlocked");
    expect(spanText(-90)).toBe("−1 min 30 s");
  });
});

test("how far a moment lies away", () => {
  const now = Date.UTC(2026, 2, 2, 9);
  expect(awayText("2026-03-02T08:56:00Z", now)).toBe("4 min ago");
  expect(awayText("2026-03-14T09:00:00Z", now)).toBe("in 12 d");
  expect(awayText("2026-03-02T08:59:30Z", now)).toBe("just now");
});

test("one thing and several", () => {
  expect([plural(0, "account"), plural(1, "account"), plural(1_184, "account")]).toEqual([
    "0 accounts",
    "1 account",
    "1,184 accounts",
  ]);
});
