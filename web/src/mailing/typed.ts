import type { Mailing } from "../api/mailing";

/** What is chosen, as it is typed. */
export interface Typed extends Omit<Mailing, "days" | "by_policy"> {
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

export const typedOf = ({ days, by_policy, ...rest }: Mailing): Typed => ({
  ...rest,
  days: daysText(days),
  byPolicy: Object.entries(by_policy).map(([ref, own]) => ({ ref, days: daysText(own) })),
});

export const mailingOf = ({ days, byPolicy, ...rest }: Typed): Mailing => ({
  ...rest,
  days: daysOf(days),
  by_policy: Object.fromEntries(byPolicy.map((one) => [one.ref, daysOf(one.days)])),
});
