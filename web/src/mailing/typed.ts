import type { Mailing } from "../api/mailing";

/** What is chosen, as it is typed. */
export interface Typed extends Omit<Mailing, "days" | "by_policy"> {
  /** What was chosen when typing began. */
  version: number;
  days: string;
  byPolicy: { ref: string; days: string }[];
}

const daysText = (days: readonly number[]) => days.join(", ");

/** Numbers as they are typed; what is no number is left for the server to refuse. */
const daysOf = (text: string) =>
  text
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map((one) => (/^\d{1,4}$/.test(one) ? Number(one) : 0));

export const typedOf = ({ days, by_policy, ...rest }: Mailing, version: number): Typed => ({
  ...rest,
  version,
  days: daysText(days),
  byPolicy: Object.entries(by_policy).map(([ref, own]) => ({ ref, days: daysText(own) })),
});

export const mailingOf = (typed: Typed): Mailing => ({
  on: typed.on,
  kinds: typed.kinds,
  days: daysOf(typed.days),
  by_policy: Object.fromEntries(typed.byPolicy.map((one) => [one.ref, daysOf(one.days)])),
  quiet_from: typed.quiet_from,
  quiet_until: typed.quiet_until,
  zone: typed.zone,
  page: typed.page,
});
