// What is typed in the panel of an addition: rules, lifetimes and lists that are not saved yet.
import { at } from "../draft/place";
import { carryAllKept, settleKept, type Work } from "../shared/kept";

export const workOn = (
  what: string,
  label: string,
  domain: string,
  policy: string,
  list?: string,
): Work => ({
  place: domain,
  about: what,
  label,
  to: `/${at(domain)}/strata?policy=${policy}&besides=1${list === undefined ? "" : `&list=${encodeURIComponent(list)}`}`,
});

/**
 * What was sent is saved, in the place where the write has gone: true if nothing was typed on
 * meanwhile. That, and all else that is typed in the panel, goes along.
 */
export function settled(
  domain: string,
  policy: string,
  place: string,
  work?: Work,
  sent?: unknown,
): boolean {
  const all = !work || settleKept(work, sent, place);
  const mine = new Set([`addition ${policy}`, `lifetime ${policy}`, `policy ${policy}`]);
  carryAllKept((about) => mine.has(about) || about.startsWith("terms "), domain, place);
  return all;
}
