import { memo, type PointerEvent } from "react";
import type { Schemas } from "../api/client";
import { lookOf } from "../shared/look";
import { plural } from "../shared/span";
import { Swatch } from "../kit/Swatch";
import type { Column, Hidden } from "./columns";
import { HiddenCell } from "./HiddenCell";
import { rowClass } from "./rowClass";

type Layer = Schemas["Layer"];

/** What can be done with a layer; the same object as long as the section stands. */
export interface RowActions {
  select: (guid: string) => void;
  press: (event: PointerEvent<HTMLElement>, guid: string, row: number) => void;
  weigh: (guid: string, by: number) => void;
  take: () => void;
}

interface Props {
  layer: Layer;
  row: number;
  columns: Column[];
  /** Its accounts in populations without a column; undefined where each has a column. */
  hidden: Hidden | undefined;
  selected: boolean;
  raised: number;
  /** Whether a new place of it is weighed, for Enter to take. */
  taking: boolean;
  /** The column in this row that Tab reaches, −1 for none. */
  tab: number;
  act: RowActions;
}

const ROW = 37;
/** One policy: its name and settings, and where it holds or reaches. */
export const LayerRow = memo(function LayerRow({
  layer,
  row,
  columns,
  hidden,
  selected,
  raised,
  taking,
  tab,
  act,
}: Props) {
  return (
    <tr style={{ height: ROW }} aria-rowindex={row + 2} aria-selected={selected}>
      <th
        scope="row"
        className={`sticky left-0 z-10 p-0 text-left align-middle font-normal ${rowClass(selected)} border-l`}
      >
        <LayerButton
          layer={layer}
          row={row}
          selected={selected}
          raised={raised}
          taking={taking}
          reachable={tab === 0}
          act={act}
        />
      </th>
      {columns.map((column, number) => (
        <Cell
          key={column.population.key}
          layer={layer}
          row={row}
          place={number + 1}
          column={column}
          selected={selected}
          last={number === columns.length - 1 && !hidden}
          reachable={tab === number + 1}
        />
      ))}
      {hidden && (
        <HiddenCell
          layer={layer}
          row={row}
          place={columns.length + 1}
          hidden={hidden}
          selected={selected}
          reachable={tab === columns.length + 1}
        />
      )}
    </tr>
  );
});

type ButtonProps = Pick<Props, "layer" | "row" | "selected" | "raised" | "taking" | "act"> & {
  reachable: boolean;
};

function LayerButton({ layer, row, selected, raised, taking, reachable, act }: ButtonProps) {
  const tie = layer.ties.length > 0;
  const sentence = `${layer.name}, precedence ${layer.precedence}${tie ? `, tied with ${layer.ties.map((t) => t.name).join(" and ")}` : ""}: governs ${layer.governed.toLocaleString("en")} of ${plural(layer.reached, "account")} it reaches.`;
  return (
    <button
      data-at={`${row}:0`}
      tabIndex={reachable ? 0 : -1}
      aria-pressed={selected}
      title={sentence}
      className="grid h-[35px] w-full cursor-grab touch-none grid-cols-[36px_14px_minmax(0,1fr)_auto] items-center gap-2 pr-2 text-left tiny:grid-cols-[26px_12px_minmax(0,1fr)] tiny:gap-1"
      onPointerDown={(event) => act.press(event, layer.guid, row)}
      onKeyDown={(event) => {
        if (event.shiftKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
          event.preventDefault();
          act.weigh(layer.guid, event.key === "ArrowUp" ? -1 : 1);
        } else if (event.key === "Enter" && taking) {
          event.preventDefault();
          act.take();
        }
      }}
      onClick={() => act.select(selected ? "" : layer.guid)}
    >
      <span className={`text-right font-mono text-sm font-semibold ${tie ? "text-warn" : ""}`}>
        {layer.precedence}
      </span>
      <Swatch mark={layer.mark} />
      <span className="min-w-0">
        <span className="block truncate leading-4 font-semibold">
          {layer.name} {tie && <span className="ml-1 text-xs font-normal text-warn">tie</span>}
        </span>
        <span className="block truncate text-xs leading-4 text-soft">
          {layer.change && (
            <span className="mr-1.5 rounded-sm bg-warn px-1 text-[11px] font-medium text-white">
              {layer.change}
            </span>
          )}
          {layer.summary}
        </span>
        <span className="sr-only">
          governs {layer.governed.toLocaleString("en")} of {layer.reached.toLocaleString("en")}{" "}
          reached
        </span>
      </span>
      {raised > 0 && (
        <span className="text-xs text-warn tiny:hidden" title={plural(raised, "finding")}>
          △{raised}
          <span className="sr-only"> finding{raised === 1 ? "" : "s"}</span>
        </span>
      )}
    </button>
  );
}

type CellProps = Pick<Props, "layer" | "row" | "selected"> & {
  column: Column;
  place: number;
  last: boolean;
  reachable: boolean;
};

/** What is done with it is heard by the section as a whole: there are thousands. */
function Cell({ layer, row, place, column, selected, last, reachable }: CellProps) {
  const cell = column.cells.get(layer.guid);
  const look = lookOf(layer.mark);
  const sentence = cell ? cell.reason : `${layer.name} does not reach ${column.population.label}.`;
  return (
    <td className={`p-0.5 ${rowClass(selected)} ${last ? "border-r" : ""}`}>
      <div
        data-at={`${row}:${place}`}
        tabIndex={reachable ? 0 : -1}
        role="button"
        aria-label={sentence}
        className={`h-[29px] rounded-[3px] ${cell && !cell.holds ? "border border-dashed" : ""}`}
        style={
          cell
            ? cell.holds
              ? { backgroundImage: look.solid }
              : { backgroundImage: look.ghost, borderColor: look.ink }
            : undefined
        }
      />
    </td>
  );
}
