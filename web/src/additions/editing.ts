// A rule that is put together or changed, and the rules of an addition with the rule in place.
import type { Addition, PathName, Rule } from "../api/additions";
import type { Schemas } from "../api/client";
import type { Typed } from "./kinds";

type Info = Schemas["AdditionInfo"];

/** A rule being typed: on which path, and in the place of which one there; null for a new one. */
export interface Working {
  path: PathName;
  was: Rule | null;
  typed: Typed;
  /** When it was begun: another one begun meanwhile is not this one typed on. */
  begun: number;
}

export const bodyOf = (info: Info): Addition => ({
  password: info.password?.map((one) => one.rule) ?? null,
  phrase: info.phrase?.map((one) => one.rule) ?? null,
  bands: info.bands,
});

/** Nothing at all is no addition. */
export const orNone = (addition: Addition) =>
  addition.password || addition.phrase || addition.bands.length > 0 ? addition : null;

export const same = (one: unknown, other: unknown) => JSON.stringify(one) === JSON.stringify(other);

/**
 * The present number of the rule that is being changed, whatever was added or removed meanwhile;
 * the end of its path for a new one, and for one that is gone.
 */
export function placeOf(addition: Addition, { path, was }: Working): number {
  const rules = addition[path] ?? [];
  const at = was ? rules.findIndex((rule) => same(rule, was)) : -1;
  return at < 0 ? rules.length : at;
}

export function withRule(addition: Addition, working: Working, rule: Rule): Addition {
  const rules = [...(addition[working.path] ?? [])];
  rules[placeOf(addition, working)] = rule;
  return { ...addition, [working.path]: rules };
}

export function withoutRule(addition: Addition, path: PathName, number: number): Addition {
  const rules = (addition[path] ?? []).filter((_, n) => n !== number);
  return { ...addition, [path]: rules.length > 0 ? rules : null };
}
