import { describe, expect, test } from "vitest";
import type { Schemas } from "../src/api/client";
import type { PolicySetting } from "../src/api/policies";
import { changesOf, NO_EDITS, sentences, unedited, valueWithUnit } from "../src/editor/edits";

type Setting = PolicySetting;

const stored = {
  name: "Night operators",
  precedence: 30,
  settings: { min_length: 14, max_age: null, complexity: true, lockout_threshold: 0 },
} as unknown as Schemas["PolicyDetail"];
const catalogue = [
  { key: "min_length", label: "Minimum length", kind: "count", unit: "characters" },
  { key: "max_age", label: "Maximum age", kind: "span", unit: "days", endless: "never" },
  { key: "complexity", label: "Complexity", kind: "switch", unit: "" },
  {
    key: "lockout_threshold",
    label: "Lockout threshold",
    kind: "count",
    unit: "bad tries",
    zero: "never locks",
  },
].map((setting) => ({ ...setting, takes_effect: "at once" })) as unknown as Setting[];
const [length, age, complexity, threshold] = catalogue as [Setting, Setting, Setting, Setting];

describe("edits", () => {
  test("what is typed back to what it was is no change", () => {
    const edits = { name: "Night operators", precedence: 30, settings: { min_length: 14 } };
    expect(changesOf(stored, edits)).toEqual({ body: { settings: {} }, count: 0 });
    expect(unedited(edits)).toBe(false);
    expect(unedited(NO_EDITS)).toBe(true);
  });

  test("only what differs is sent, and text that cannot be read counts", () => {
    const edits = {
      name: "Nights",
      settings: { min_length: 16, complexity: true, max_age: 86_400 },
      unreadable: { min_age: "That is no span of time.", max_age: "" },
    };
    expect(changesOf(stored, edits)).toEqual({
      body: { name: "Nights", settings: { min_length: 16, max_age: 86_400 } },
      count: 4,
    });
    expect(unedited({ settings: {}, unreadable: { max_age: "" } })).toBe(true);
  });

  test("never and off are values like others", () => {
    const aged = { ...stored, settings: { ...stored.settings, max_age: 86_400 } };
    expect(
      changesOf(aged, { settings: { max_age: null, complexity: false } }).body.settings,
    ).toEqual({ max_age: null, complexity: false });
  });

  test("sentences stand in the order of the catalogue", () => {
    const edits = {
      precedence: 20,
      settings: { complexity: false, max_age: 86_400, min_length: 9 },
    };
    expect(sentences(stored, edits, catalogue)).toEqual([
      "Precedence: 30 → 20",
      "Minimum length: 14 → 9, at once",
      "Maximum age: never → 1 d, at once",
      "Complexity: on → off, at once",
    ]);
  });

  test("values with their units", () => {
    expect(valueWithUnit(length, 1)).toBe("1 character");
    expect(valueWithUnit(length, 12)).toBe("12 characters");
    expect(valueWithUnit(threshold, 1)).toBe("1 bad try");
    expect(valueWithUnit(threshold, 0)).toBe("never locks");
    expect(valueWithUnit(age, 3_600)).toBe("1 h");
    expect(valueWithUnit(complexity, false)).toBe("off");
    expect(valueWithUnit(length, undefined)).toBe("–");
  });
});
