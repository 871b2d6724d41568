import { describe, expect, test } from "vitest";
import type { Rule } from "../src/api/additions";
import { begun, KINDS, ruleOf, several, typedOf } from "../src/additions/kinds";

/** What is typed, with every field filled. */
const filled = (key: (typeof KINDS)[number]["key"]) => {
  const typed = begun(key);
  for (const field of KINDS.find((kind) => kind.key === key)?.fields ?? [])
    typed.fields[field.name] ||=
      field.kind === "count"
        ? "2"
        : field.kind === "tick"
          ? "yes"
          : (field.choices?.[0]?.[0] ?? "house");
  return typed;
};

describe("what is typed in the form of a rule", () => {
  test.each(KINDS.map((kind) => kind.key))("comes back from the rule: %s", (key) => {
    const typed = filled(key);
    const found = ruleOf(typed);
    expect(found).toHaveProperty("rule");
    expect(Object.keys((found as { rule: Rule }).rule)).toEqual([key]);
    const again = typedOf((found as { rule: Rule }).rule);
    // Whether a pattern must be found is a choice in the form and a yes or no in the rule.
    if (key !== "pattern") expect(again).toEqual(typed);
  });

  test.each(KINDS.map((kind) => kind.key))("names the field that is wrong: %s", (key) => {
    for (const field of KINDS.find((kind) => kind.key === key)?.fields ?? []) {
      const typed = filled(key);
      if (field.kind === "tick" || field.name === "must") continue;
      typed.fields[field.name] = field.kind === "count" ? "many" : "";
      const found = ruleOf(typed);
      if (field.open && field.kind !== "count") expect(found).toHaveProperty("rule");
      else expect(found).toMatchObject({ field: field.name });
    }
  });

  test("an open count that is empty asks nothing", () => {
    expect(ruleOf({ key: "length", fields: { min: "12", max: " " } })).toEqual({
      rule: { length: { min: 12 } },
    });
    expect(typedOf({ length: { min: 0, max: 20 } } as Rule).fields).toEqual({ min: "", max: "20" });
  });

  test("several choices stand in lines", () => {
    expect(several("a\n\nb")).toEqual(["a", "b"]);
    expect(several(undefined)).toEqual([]);
  });
});
