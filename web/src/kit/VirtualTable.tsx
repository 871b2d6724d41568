import { useVirtualizer } from "@tanstack/react-virtual";
import { Fragment, useEffect, useRef, useState, type ReactNode } from "react";
import { usePrinting } from "../shared/usePrinting";

const HEAD = 28;
const ROW = 30;
/** Rows that a printed page holds at most. */
const MOST_PRINTED = 200;

export interface TableColumn {
  key: string;
  title: string;
  /** The width as a grid track, and the least of the width in px. */
  width: string;
  least: number;
  /** The name of the order by this column; none where rows cannot be ordered so. */
  order?: string;
}

interface Props<Row, Column extends TableColumn> {
  label: string;
  /** The number of rows, drawn or not. */
  total: number;
  columns: Column[];
  order: string;
  descending: boolean;
  onOrder: (order: string, descending: boolean) => void;
  /** A row by its number; undefined while the row is on its way. */
  rowAt: (index: number) => Row | undefined;
  /** One cell, with the role "cell". */
  cell: (row: Row, column: Column) => ReactNode;
  isSelected: (row: Row) => boolean;
  onSelect: (row: Row) => void;
  /** The number of the row in the middle of the view. */
  onMiddle: (index: number) => void;
}

/**
 * A table of any length: only the rows in view are drawn. Arrows, Page Up and Page Down, Home and
 * End move between rows, Enter selects a row.
 */
export function VirtualTable<Row, Column extends TableColumn>({
  label,
  total,
  columns,
  order,
  descending,
  onOrder,
  rowAt,
  cell,
  isSelected,
  onSelect,
  onMiddle,
}: Props<Row, Column>) {
  const frame = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0);
  const printing = usePrinting();
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer keeps its own state on purpose
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: printing ? MOST_PRINTED : 12,
    paddingStart: HEAD,
    scrollPaddingStart: HEAD,
  });
  const items = virtual.getVirtualItems();
  const middle = items[Math.floor(items.length / 2)]?.index ?? 0;

  useEffect(() => onMiddle(middle), [middle, onMiddle]);

  const move = (to: number) => {
    const next = Math.min(total - 1, Math.max(0, to));
    setAt(next);
    virtual.scrollToIndex(next);
    requestAnimationFrame(() =>
      frame.current?.querySelector<HTMLElement>(`[data-row="${next}"]`)?.focus(),
    );
  };

  const grid = {
    gridTemplateColumns: columns.map((c) => `minmax(${c.least}px, ${c.width})`).join(" "),
    minWidth: columns.reduce((sum, c) => sum + c.least + 12, 20),
  };

  return (
    <div ref={frame} className="min-h-0 flex-1 overflow-auto" data-testid="rows">
      {printing && total > items.length && (
        <p className="px-4 pb-1">
          {items.length.toLocaleString("en")} of {total.toLocaleString("en")} rows stand here; the
          CSV file holds all of them.
        </p>
      )}
      <div
        data-virtual
        role="table"
        aria-label={label}
        aria-rowcount={total + 1}
        style={{ minWidth: grid.minWidth, height: virtual.getTotalSize() }}
        className="relative"
      >
        <div role="rowgroup" className="sticky top-0 z-10">
          <div
            role="row"
            style={grid}
            className={`${LINE} h-7 border-y border-line bg-hover text-xs font-medium`}
          >
            {columns.map((column) => {
              const by = column.order;
              const on = by === order;
              return (
                <span
                  role="columnheader"
                  key={column.key}
                  aria-sort={on ? (descending ? "descending" : "ascending") : undefined}
                  className="min-w-0"
                >
                  {by ? (
                    <button
                      type="button"
                      className="h-6 max-w-full truncate hover:underline"
                      title={`${column.title}: order by it`}
                      onClick={() => onOrder(by, on && !descending)}
                    >
                      {column.title}
                      <span aria-hidden>{on ? (descending ? " ▾" : " ▴") : ""}</span>
                    </button>
                  ) : (
                    column.title
                  )}
                </span>
              );
            })}
          </div>
        </div>
        <div role="rowgroup">
          {items.map((item) => {
            const row = rowAt(item.index);
            return (
              <div
                key={item.key}
                role="row"
                aria-rowindex={item.index + 2}
                data-row={item.index}
                tabIndex={item.index === at ? 0 : -1}
                className={`${LINE} absolute inset-x-0 top-0 h-[30px] cursor-pointer border-b border-line/60 ${row && isSelected(row) ? "bg-white font-medium shadow-[inset_3px_0_0_var(--color-ink)]" : "hover:bg-sheet"} focus-visible:outline-offset-[-2px]`}
                style={{ ...grid, transform: `translateY(${item.start}px)` }}
                onFocus={() => setAt(item.index)}
                onClick={() => row && onSelect(row)}
                onKeyDown={(event) => {
                  const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12 }[event.key];
                  if (step) {
                    event.preventDefault();
                    move(item.index + step);
                  } else if (event.key === "Home" || event.key === "End") {
                    event.preventDefault();
                    move(event.key === "Home" ? 0 : total - 1);
                  } else if (event.key === "Enter" && row) onSelect(row);
                }}
              >
                {row ? (
                  columns.map((column) => <Fragment key={column.key}>{cell(row, column)}</Fragment>)
                ) : (
                  <span role="cell" className="h-3 w-24 rounded bg-line">
                    <span className="sr-only">on its way</span>
                  </span>
                )}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

const LINE = "grid items-center gap-3 px-4 small:px-2";
