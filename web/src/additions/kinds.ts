// The kinds of rules that an addition can have, field by field: what a form asks for, and how what is
// typed becomes a rule. What a rule says in words comes from the server.
import type { Rule } from "../api/additions";

export type RuleKey = keyof Rule;

export interface Field {
  name: string;
  label: string;
  kind: "count" | "text" | "tick" | "one" | "some" | "layouts" | "lists" | "corpora";
  /** May be left empty. */
  open?: boolean;
  start?: string;
  choices?: [value: string, label: string][];
}

export interface Kind {
  key: RuleKey;
  label: string;
  /** Whether it makes sense on the phrase path first. */
  fields: Field[];
}

const CHARACTERS: [string, string][] = [
  ["upper", "uppercase letters"],
  ["lower", "lowercase letters"],
  ["digit", "digits"],
  ["symbol", "symbols"],
  ["caseless", "letters without case"],
  ["letter", "letters of any kind"],
  ["other", "all that is no letter"],
];
const range: Field[] = [
  { name: "min", label: "At least", kind: "count", start: "", open: true },
  { name: "max", label: "At most", kind: "count", start: "", open: true },
];
const most = (start: string): Field => ({ name: "max", label: "At most", kind: "count", start });

const LENGTH: Kind = { key: "length", label: "Length", fields: range };

export const KINDS: Kind[] = [
  LENGTH,
  {
    key: "groups",
    label: "Character groups",
    fields: [{ name: "min", label: "At least", kind: "count", start: "3" }],
  },
  {
    key: "count",
    label: "Characters of a kind",
    fields: [
      { name: "of", label: "Of", kind: "one", choices: CHARACTERS, start: "digit" },
      ...range,
    ],
  },
  {
    key: "edge",
    label: "First and last character",
    fields: [
      { name: "first", label: "Not first", kind: "some", choices: CHARACTERS, open: true },
      { name: "last", label: "Not last", kind: "some", choices: CHARACTERS, open: true },
    ],
  },
  {
    key: "forbid",
    label: "Forbidden characters",
    fields: [{ name: "characters", label: "None of", kind: "text" }],
  },
  { key: "repeat", label: "Repeated character", fields: [most("2")] },
  { key: "run", label: "Run of letters or digits", fields: [most("3")] },
  {
    key: "walk",
    label: "Walk over the keys",
    fields: [most("3"), { name: "layouts", label: "Keyboards", kind: "layouts" }],
  },
  {
    key: "blocked",
    label: "Blocked terms",
    fields: [
      { name: "lists", label: "Lists", kind: "lists" },
      { name: "whole", label: "Only as a whole", kind: "tick" },
    ],
  },
  {
    key: "names",
    label: "Own names",
    fields: [{ name: "reversed", label: "Nor backwards", kind: "tick" }],
  },
  {
    key: "closeness",
    label: "Unlike the present one",
    fields: [
      { name: "changed", label: "Characters changed, at least", kind: "count", open: true },
      { name: "shared", label: "In a row kept, at most", kind: "count", open: true },
      { name: "no_counting", label: "More than a number or the case", kind: "tick" },
    ],
  },
  {
    key: "pattern",
    label: "Pattern",
    fields: [
      { name: "expression", label: "Expression", kind: "text" },
      {
        name: "must",
        label: "It",
        kind: "one",
        choices: [
          ["no", "must not be found"],
          ["yes", "must be found"],
        ],
        start: "no",
      },
    ],
  },
  {
    key: "exposed",
    label: "Known exposed",
    fields: [
      { name: "lists", label: "Lists of exposed passwords", kind: "corpora" },
      { name: "max", label: "Seen at most", kind: "count", start: "0" },
    ],
  },
  {
    key: "words",
    label: "Words",
    fields: [
      { name: "min", label: "At least", kind: "count", start: "4" },
      { name: "letters", label: "Letters each, at least", kind: "count", start: "3" },
      { name: "distinct", label: "None of them twice", kind: "tick" },
    ],
  },
];

/** What is typed in a rule's form: text by field, several choices with a line break between them. */
export interface Typed {
  key: RuleKey;
  fields: Record<string, string>;
}

export const kindOf = (key: RuleKey) => KINDS.find((kind) => kind.key === key) ?? LENGTH;

export const begun = (key: RuleKey): Typed => ({
  key,
  fields: Object.fromEntries(kindOf(key).fields.map((field) => [field.name, field.start ?? ""])),
});

export const several = (text = "") => text.split("\n").filter(Boolean);

/** The rule that is typed, or what is wrong with which field. */
export function ruleOf(typed: Typed): { rule: Rule } | { field: string; problem: string } {
  const values: Record<string, unknown> = {};
  for (const field of kindOf(typed.key).fields) {
    const text = typed.fields[field.name] ?? "";
    if (field.kind === "tick") values[field.name] = text === "yes";
    else if (field.name === "must") values.must = text === "yes";
    else if (field.kind === "count") {
      if (text.trim() === "" && field.open) continue;
      if (!/^\d{1,9}$/.test(text.trim()))
        return { field: field.name, problem: `${field.label}: a whole number is needed.` };
      values[field.name] = Number(text);
    } else if (field.kind === "text" || field.kind === "one") {
      if (text === "") return { field: field.name, problem: `${field.label}: fill it in.` };
      values[field.name] = text;
    } else {
      if (text === "" && !field.open)
        return { field: field.name, problem: `${field.label}: choose one at least.` };
      values[field.name] = several(text);
    }
  }
  return { rule: { [typed.key]: values } as Rule };
}

/** A rule as its form shows it. */
export function typedOf(rule: Rule): Typed {
  const [key, values] = Object.entries(rule)[0] as [RuleKey, Record<string, unknown>];
  const shown = (value: unknown) =>
    Array.isArray(value)
      ? value.join("\n")
      : value === true
        ? "yes"
        : value === false
          ? "no"
          : typeof value === "number" || typeof value === "string"
            ? String(value)
            : "";
  return {
    key,
    fields: Object.fromEntries(
      kindOf(key).fields.map((field) => {
        const value = values[field.name];
        // Nought at least asks nothing.
        return [field.name, field.open && value === 0 ? "" : shown(value)];
      }),
    ),
  };
}
