import { useVirtualizer } from "@tanstack/react-virtual";
import type { RefObject } from "react";
import type { Schemas } from "../api/client";
import type { Column, Hidden } from "./columns";
import { LayerRow, type RowActions } from "./LayerRow";

interface Props {
  /** What scrolls. */
  frame: RefObject<HTMLElement | null>;
  layers: Schemas["Layer"][];
  columns: Column[];
  /** Accounts in populations without a column, by policy; undefined where each has a column. */
  hidden: ReadonlyMap<string, Hidden> | undefined;
  selected: string;
  /** Open findings by policy. */
  raised: ReadonlyMap<string, number>;
  /** The policy whose new place is weighed, if any. */
  taken?: string;
  /** The place that Tab reaches. */
  at: { row: number; column: number };
  act: RowActions;
  height: number;
  /** How high the head stands above the first row. */
  head: number;
}

const FEW = 40;
/** Rows that are drawn above and below those in sight. */
const BEYOND = 4;

/** The layers that are in sight; only these are drawn anew while the section scrolls. */
export function LayerRows(props: Props) {
  const { frame, layers, columns, hidden, selected, raised, taken, at, act, height, head } = props;
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer keeps its own state on purpose
  const virtual = useVirtualizer({
    count: layers.length,
    getScrollElement: () => frame.current,
    estimateSize: () => height,
    // A short section is drawn whole.
    overscan: layers.length <= FEW ? FEW : BEYOND,
    paddingStart: head,
    initialRect: { width: 0, height: FEW * height },
  });
  const inSight = virtual.getVirtualItems();
  const drawn = { first: inSight[0]?.index ?? 0, end: (inSight.at(-1)?.index ?? -1) + 1 };
  // The place that Tab reaches has to be one that is drawn.
  const reachable =
    at.row >= layers.length ? at.row : Math.min(Math.max(at.row, drawn.first), drawn.end - 1);
  const spacer = (rows: number) => (
    <Spacer height={rows * height} columns={columns.length + (hidden ? 2 : 1)} />
  );
  return (
    <tbody>
      {spacer(drawn.first)}
      {layers.slice(drawn.first, drawn.end).map((layer, offset) => {
        const row = drawn.first + offset;
        return (
          <LayerRow
            key={layer.guid}
            layer={layer}
            row={row}
            columns={columns}
            hidden={hidden?.get(layer.guid)}
            selected={layer.guid === selected}
            raised={raised.get(layer.guid) ?? 0}
            taking={taken === layer.guid}
            tab={reachable === row ? at.column : -1}
            act={act}
          />
        );
      })}
      {spacer(layers.length - drawn.end)}
    </tbody>
  );
}

/** The place of layers that are out of sight. */
function Spacer({ height, columns }: { height: number; columns: number }) {
  return height > 0 ? (
    <tr aria-hidden style={{ height }}>
      <td colSpan={columns} />
    </tr>
  ) : null;
}
