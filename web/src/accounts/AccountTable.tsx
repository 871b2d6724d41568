import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { PAGE } from "../api/accounts";
import { AccountCell } from "./AccountCell";
import type { Column } from "./columns";
import { usePrinting } from "../shared/usePrinting";

type Row = Schemas["AccountRow"];

const HEAD = 28;
const ROW = 30;

interface Props {
  total: number;
  pages: Schemas["AccountPage"][];
  columns: Column[];
  order: string;
  descending: boolean;
  onOrder: (order: string, descending: boolean) => void;
  selected: string;
  onSelect: (name: string) => void;
  onPage: (page: number) => void;
}

/** Everyone, however many: only the rows in view exist, and only their pages are fetched. */
export function AccountTable({
  total,
  pages,
  columns,
  order,
  descending,
  onOrder,
  selected,
  onSelect,
  onPage,
}: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0);
  const printing = usePrinting();
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer keeps its own state on purpose
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: printing ? PAGE : 12,
    paddingStart: HEAD,
    scrollPaddingStart: HEAD,
  });
  const items = virtual.getVirtualItems();
  const page = Math.floor((items[Math.floor(items.length / 2)]?.index ?? 0) / PAGE);

  useEffect(() => onPage(page), [page, onPage]);

  const rowAt = (index: number): Row | undefined => {
    for (const p of pages) {
      const row = p.rows[index - p.offset];
      if (row && index >= p.offset) return row;
    }
    return undefined;
  };

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
          {items.length.toLocaleString("en")} of {total.toLocaleString("en")} accounts stand here;
          the CSV file holds all of them.
        </p>
      )}
      <div
        data-virtual
        role="table"
        aria-label="Accounts"
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
                className={`${LINE} absolute inset-x-0 top-0 h-[30px] cursor-pointer border-b border-line/60 ${row && row.name === selected ? "bg-white font-medium shadow-[inset_3px_0_0_var(--color-ink)]" : "hover:bg-sheet"} focus-visible:outline-offset-[-2px]`}
                style={{ ...grid, transform: `translateY(${item.start}px)` }}
                onFocus={() => setAt(item.index)}
                onClick={() => row && onSelect(row.name)}
                onKeyDown={(event) => {
                  const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12 }[event.key];
                  if (step) {
                    event.preventDefault();
                    move(item.index + step);
                  } else if (event.key === "Home" || event.key === "End") {
                    event.preventDefault();
                    move(event.key === "Home" ? 0 : total - 1);
                  } else if (event.key === "Enter" && row) onSelect(row.name);
                }}
              >
                {row ? (
                  columns.map((column) => (
                    <AccountCell key={column.key} column={column.key} row={row} />
                  ))
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
