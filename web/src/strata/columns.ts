// Which populations get a column of their own, and how wide each is.
import type { Schemas } from "../api/client";

type Population = Schemas["Population"];

export interface Column {
  population: Population;
  left: number;
  width: number;
}

export interface Columns {
  columns: Column[];
  /** What has no column: openable at the right edge. */
  rest: Population[];
  restLeft: number;
  width: number;
}

const NARROWEST = 34;
const REST = 58;

/** Chosen populations, then the largest, get a column; they stand in the order of the layers that take them. */
export function layOut(populations: Population[], available: number, all: boolean, chosen: Set<string>): Columns {
  const room = Math.max(3, Math.floor((available - REST) / NARROWEST));
  const fits = all || populations.length * NARROWEST <= available;
  let shown = populations;
  if (!fits) {
    const largest = new Set([...populations].sort((a, b) => Number(chosen.has(b.key)) - Number(chosen.has(a.key)) || b.count - a.count).slice(0, room));
    shown = populations.filter((p) => largest.has(p));
  }
  const rest = populations.filter((p) => !shown.includes(p));
  const spare = Math.max(0, available - (rest.length ? REST : 0) - shown.length * NARROWEST);
  // Square roots keep a crowd from squeezing everybody else.
  const total = shown.reduce((sum, p) => sum + Math.sqrt(p.count), 0) || 1;
  let left = 0;
  const columns = shown.map((population) => {
    const width = Math.floor(NARROWEST + (spare * Math.sqrt(population.count)) / total);
    const column = { population, left, width };
    left += width;
    return column;
  });
  return { columns, rest, restLeft: left, width: left + (rest.length ? REST : 0) };
}
