// Which populations get a column of their own, and how wide each is.
import type { Schemas } from "../api/client";

type Population = Schemas["Population"];

export interface Column {
  population: Population;
  left: number;
  width: number;
  /** Its cells by policy. */
  cells: Map<string, Population["cells"][number]>;
}

export interface Columns {
  columns: Column[];
  /** What has no column: openable at the right edge. */
  rest: Population[];
  restLeft: number;
  width: number;
}

/** Ten letters of a group's name fit beside each other. */
const NARROWEST = 62;
export const REST = 58;

/** What every group is called first says nothing where a place is small: "GS-". */
export function prefixOf(populations: Population[]): string {
  const names = populations.flatMap((p) => p.who.split(JOINTS)).filter((name) => !PLAIN.has(name));
  const first = /^[^-_]{1,4}[-_]/.exec(names[0] ?? "")?.[0] ?? "";
  return names.length > 2 &&
    names.every((name) => name.startsWith(first) && name.length > first.length)
    ? first
    : "";
}

const JOINTS = / \+ | or /;
const PLAIN = new Set(["All others", "Exempt", "Linked one by one"]);
const LETTER = 6.3;

/**
 * Where room is short: the chosen, then the largest of each policy, then all others, the exempt
 * last.
 */
function ranked(populations: Population[], chosen: Set<string>): Map<string, number> {
  const largest = new Map<string | null, Population>();
  for (const p of populations)
    if (p.source !== "exempt" && p.count > (largest.get(p.winner)?.count ?? 0))
      largest.set(p.winner, p);
  return new Map(
    populations.map((p) => [
      p.key,
      chosen.has(p.key) ? 0 : largest.get(p.winner) === p ? 1 : p.source === "exempt" ? 3 : 2,
    ]),
  );
}

/**
 * Chosen populations, then the largest, get a column; they stand in the order of the layers that
 * take them.
 */
export function layOut(
  populations: Population[],
  available: number,
  all: boolean,
  chosen: Set<string>,
  /** Whether there are populations that the server did not list. */
  unlisted = false,
): Columns {
  const prefix = prefixOf(populations);
  const headOf = (who: string) => shortened(who, prefix);
  const places = Math.max(1, Math.floor((available - REST) / NARROWEST));
  const fits = all || populations.length * NARROWEST + (unlisted ? REST : 0) <= available;
  let shown = populations;
  if (!fits) {
    const ranks = ranked(populations, chosen);
    const largest = new Set(
      [...populations]
        .sort((a, b) => (ranks.get(a.key) ?? 0) - (ranks.get(b.key) ?? 0) || b.count - a.count)
        .slice(0, places),
    );
    shown = populations.filter((p) => largest.has(p));
  }
  const rest = populations.filter((p) => !shown.includes(p));
  const least = shown.map((p) =>
    Math.max(NARROWEST, Math.ceil((headOf(p.who).length / 2) * LETTER) + 8),
  );
  const more = rest.length > 0 || unlisted ? REST : 0;
  const room = available - more;
  // Names get what they need while it lasts.
  const wanted = least.reduce((sum, one) => sum + one - NARROWEST, 0);
  const share = Math.min(1, Math.max(0, room - shown.length * NARROWEST) / (wanted || 1));
  const spare = Math.max(0, room - shown.length * NARROWEST - wanted);
  // Square roots keep a crowd from squeezing everybody else.
  const total = shown.reduce((sum, p) => sum + Math.sqrt(p.count), 0) || 1;
  let left = 0;
  const columns = shown.map((population, n) => {
    const named = NARROWEST + share * ((least[n] ?? NARROWEST) - NARROWEST);
    const width = Math.floor(named + (spare * Math.sqrt(population.count)) / total);
    const column = {
      population,
      left,
      width,
      cells: new Map(population.cells.map((cell) => [cell.guid, cell])),
    };
    left += width;
    return column;
  });
  return { columns, rest, restLeft: left, width: left + more };
}

/** Accounts of a policy in populations without a column. */
export interface Hidden {
  governed: number;
  reached: number;
}

/** By policy, the accounts in populations without a column: those of `rest` and those unlisted. */
export function hiddenIn(rest: Population[], layers: Schemas["Layer"][]): Map<string, Hidden> {
  const hidden = new Map(layers.map(({ guid, unlisted }) => [guid, { ...unlisted }]));
  for (const { cells, count } of rest)
    for (const cell of cells) {
      const sums = hidden.get(cell.guid);
      if (!sums) continue;
      sums.reached += count;
      if (cell.holds) sums.governed += count;
    }
  return hidden;
}

/** The accounts of all populations without a column. */
export function othersIn(rest: Population[], unlisted: Schemas["Unlisted"]) {
  let { accounts, under_domain_policy: underDomainPolicy } = unlisted;
  for (const { count, winner } of rest) {
    accounts += count;
    if (winner === "domain") underDomainPolicy += count;
  }
  return { accounts, underDomainPolicy };
}

/** Who stands in a column, without what all names begin with. */
export const shortened = (who: string, prefix: string) =>
  prefix ? who.replaceAll(prefix, "") : who;
