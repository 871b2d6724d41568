import type { Schemas } from "../api/client";
import type { ExposureKind } from "../api/exposure";

type Reason = Schemas["ExposureReason"];

/** Stands in the address for no policy by itself. */
export const EVERYBODY = "all";

const SAID: Record<ExposureKind, string> = {
  list: "on a list",
  blank: "blank",
  "own name": "made of the account’s own name",
  "house term": "made of a word of the house",
  shared: "shared with others",
};

export const reasonWords = (reason: Reason) =>
  reason.kind === "list" ? `on the list ${reason.list}` : SAID[reason.kind];

/** What becomes of exposed accounts, as it stands in a table. */
export function orderWords({ consequence, days, standing }: Schemas["ExposureOrder"]) {
  if (consequence === "note") return "noted";
  const when = consequence === "now" ? "changed at once" : `changed within ${days} d`;
  return standing ? `${when}, by itself` : when;
}

const NUMBER = new Intl.NumberFormat("en", { maximumFractionDigits: 1 });

/** A share that is not nought is never told as nought. */
export function shareText(part: number, whole: number) {
  if (whole === 0) return "–";
  const share = (100 * part) / whole;
  return part > 0 && share < 0.1 ? "< 0.1 %" : `${NUMBER.format(share)} %`;
}

const UNITS = ["bytes", "kB", "MB", "GB", "TB"];

export function sizeText(bytes: number) {
  let size = bytes;
  let unit = 0;
  while (size >= 1000 && unit < UNITS.length - 1) {
    size /= 1000;
    unit += 1;
  }
  return `${NUMBER.format(size)} ${UNITS[unit]}`;
}
