// What accounts are asked for, as it stands in the address: the same words that the server takes,
// and each as a part of a sentence.
import type { Schemas } from "../api/client";
import { dayText } from "../shared/moments";

export const FILTERS = [
  "q",
  "policy",
  "population",
  "group",
  "way",
  "tie",
  "locked",
  "expiry",
  "within",
  "set_before",
  "enabled",
  "privileged",
  "flag",
  "container",
] as const;

export type FilterKey = (typeof FILTERS)[number];

/**
 * Values by key, empty where nothing is asked. `flag` may name several, with commas between them.
 */
export type Asked = Record<FilterKey, string>;

export const askedIn = (params: URLSearchParams): Asked =>
  Object.fromEntries(FILTERS.map((key) => [key, (params.get(key) ?? "").trim()])) as Asked;

/** The query for the server: one `flag` each, everything else as it is. */
export function queryOf(asked: Asked, order: string, descending: boolean): URLSearchParams {
  const query = new URLSearchParams();
  for (const [key, value] of Object.entries(asked)) {
    if (key === "flag")
      for (const flag of value.split(",").filter(Boolean)) query.append("flag", flag);
    else if (value) query.set(key, value);
  }
  if (order && order !== "name") query.set("order", order);
  if (descending) query.set("descending", "true");
  return query;
}

export const WAYS: [Schemas["AccountRow"]["source"], string][] = [
  ["group", "through a group"],
  ["account", "by a link of their own"],
  ["domain", "from the domain, as no other reaches them"],
  ["exempt", "from the domain, as they are exempt"],
];

export const EXPIRIES: [string, string][] = [
  ["must_change", "must be changed at the next sign-in"],
  ["expired", "has expired"],
  ["never", "never expires"],
  ["unknown", "expires nobody knows when"],
];

export const FLAGS: [string, string][] = [
  ["disabled", "disabled"],
  ["never_expires", "password never expires"],
  ["no_password_required", "no password required"],
  ["reversible_encryption", "reversible encryption"],
  ["smart_card_required", "smart card required"],
];

const named = (choices: [string, string][], value: string) =>
  choices.find(([key]) => key === value)?.[1] ?? value;

/** The last part of a container's name first: "People › Summit" for OU=Summit,OU=People,DC=…. */
export const containerText = (dn: string) =>
  dn
    .split(/(?<!\\),/)
    .filter((part) => !/^DC=/i.test(part))
    .map((part) => part.slice(part.indexOf("=") + 1))
    .reverse()
    .join(" › ") || dn;

/** One part of the sentence, for a filter that has no field of its own in it. */
export function said(key: FilterKey, value: string, population: string | undefined): string {
  switch (key) {
    case "population":
      return `in the population ${population ?? "that is gone"}`;
    case "group":
      return `in ${value}`;
    case "way":
      return `getting it ${named(WAYS, value)}`;
    case "tie":
      return value === "true" ? "decided by a tie" : "not decided by a tie";
    case "locked":
      return value === "true" ? "locked" : "not locked";
    case "expiry":
      return `whose password ${named(EXPIRIES, value)}`;
    case "within":
      return `whose password expires within ${value} d`;
    case "set_before":
      return `whose password was set before ${dayText(value)}`;
    case "enabled":
      return value === "true" ? "enabled" : "disabled";
    case "privileged":
      return value === "true" ? "who are administrators" : "who are no administrators";
    case "flag":
      return `flagged ${value
        .split(",")
        .map((flag) => named(FLAGS, flag))
        .join(" and ")}`;
    case "container":
      return `in ${containerText(value)}`;
    default:
      return value;
  }
}
