import type { Schemas } from "../api/client";
import type { layOut } from "./columns";
import { HEAD, ROW } from "./sizes";
import type { WeighingState } from "./useWeighing";

interface Props {
  columns: ReturnType<typeof layOut>["columns"];
  /** The populations that would change policy. */
  moves: Map<string, unknown>;
  layers: Schemas["Layer"][];
  /** The weighed precedence; null where a place among some of the layers would mean nothing. */
  weighing: WeighingState | null;
  left: number;
  width: number;
}

/**
 * The effect of a weighed precedence: the columns that change policy, and the new place of the
 * layer.
 */
export function WeighMarks({ columns, moves, layers, weighing, left, width }: Props) {
  const target =
    weighing?.weighing && weighing.answer
      ? weighing.answer.order.indexOf(weighing.weighing.guid)
      : -1;
  const source = layers.findIndex((l) => l.guid === weighing?.weighing?.guid);
  return (
    <>
      {columns.map(({ population, left: at, width: w }) =>
        moves.has(population.key) ? (
          <div
            key={population.key}
            aria-hidden
            className="pointer-events-none absolute rounded border-2 border-warn bg-warn/15"
            style={{
              left: left + at,
              width: w,
              top: HEAD,
              height: layers.length * ROW + ROW + 4,
            }}
          />
        ) : null,
      )}
      {target >= 0 && target !== source && (
        <div
          aria-hidden
          data-testid="target"
          className="pointer-events-none absolute h-[3px] bg-warn"
          style={{
            left: 0,
            width: left + width,
            top: HEAD - 1 + (target > source ? target + 1 : target) * ROW,
          }}
        />
      )}
    </>
  );
}
