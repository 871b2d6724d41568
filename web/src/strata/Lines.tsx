import { memo } from "react";
import type { Schemas } from "../api/client";
import { lookOf } from "../shared/look";
import type { Column } from "./columns";

interface Props {
  columns: Column[];
  rowOf: Map<string, number>;
  layers: Schemas["Layer"][];
  left: number;
  top: number;
  row: number;
  width: number;
}

/**
 * From the surface down to what holds: a thin line for each population, a dike where a direct link
 * cuts through.
 */
export const Lines = memo(function Lines({ columns, rowOf, layers, left, top, row, width }: Props) {
  return (
    <svg
      aria-hidden
      className="pointer-events-none absolute"
      style={{ left, top }}
      width={width}
      height={layers.length * row + 10}
    >
      {columns.map(({ population, left: x, width: w }) => {
        const at =
          population.winner === "domain"
            ? layers.length
            : (rowOf.get(population.winner) ?? layers.length);
        const mark = population.winner === "domain" ? null : (layers[at]?.mark ?? null);
        const centre = x + w / 2;
        const end = at * row + 3;
        const direct = population.source === "account";
        return (
          <g key={population.key} stroke={lookOf(mark).ink} fill={lookOf(mark).ink}>
            <path d={`M${centre} 0V${end}`} strokeWidth={direct ? 5 : 1.5} />
            {direct && <path d={`M${centre} 0l5 5-5 5-5-5z`} stroke="none" />}
          </g>
        );
      })}
    </svg>
  );
});
