// Who asks at the gate, and where additions hold for that, in words.
import type { Schemas } from "../api/client";
import type { CallerKind } from "../api/gate";
import { kindOf, type RuleKey } from "../additions/kinds";

export const KINDS: Record<CallerKind, { label: string; asks: string }> = {
  hook: {
    label: "a directory server, by its hook",
    asks: "It asks where complexity is on, in place of its own check.",
  },
  filter: {
    label: "a directory server, by a password filter",
    asks: "It asks about every password.",
  },
  portal: {
    label: "a page on which people change their password",
    asks: "It asks about what is typed there; set elsewhere, a password gets past it.",
  },
};

/** What becomes of what an addition asks when a password is set. */
export const ENFORCED: Record<Schemas["DomainInfo"]["enforced"], string> = {
  here: "Nobody asks Hornfels when a password is set: it is judged here only.",
  hook: "The directory server asks Hornfels at the gate where complexity is on.",
  everywhere: "The directory server asks Hornfels at the gate about every password.",
};

/** The directory's own rules, which the gate judges too. */
const OWN: Record<string, string> = { complexity: "Character groups", own_name: "Own name inside" };

/** A rule as the record has it, such as “phrase words”, as the bench calls it. */
export function ruleWords(kept: string): string {
  const [key = "", path = ""] = kept.split(" ").reverse();
  const label = OWN[key] ?? kindOf(key as RuleKey).label;
  return path ? `${label} (as a ${path})` : label;
}
