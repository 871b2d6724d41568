import type { ReportOrder } from "../api/reportOrder";

/** What is ordered, as it is typed. */
export interface Typed extends Omit<ReportOrder, "to" | "day"> {
  /** What was ordered when typing began. */
  version: number;
  to: string;
  day: string;
}

export const typedOf = ({ to, day, ...rest }: ReportOrder, version: number): Typed => ({
  ...rest,
  version,
  to: to.join("\n"),
  day: String(day),
});

/** What is no number is left for the server to refuse. */
export const orderOf = (typed: Typed): ReportOrder => ({
  on: typed.on,
  to: typed.to.split(/[\s,;]+/).filter(Boolean),
  every: typed.every,
  day: /^\d{1,2}$/.test(typed.day) ? Number(typed.day) : 0,
  at: typed.at,
  zone: typed.zone,
  baselines: typed.baselines,
});
