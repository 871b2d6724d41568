import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { PAGE } from "../api/queries";
import { PolicyTag } from "../shared/Swatch";
import { awayText } from "../shared/span";

type Row = Schemas["AccountRow"];

const WHY: Record<Row["source"], string> = {
  account: "linked to it",
  group: "through a group",
  domain: "not reached",
  exempt: "exempt",
};

const GRID = "grid grid-cols-[minmax(120px,1.1fr)_minmax(120px,1.2fr)_minmax(130px,1.2fr)_128px_118px_minmax(90px,1fr)] items-center gap-3 px-4";

interface Props {
  total: number;
  pages: Schemas["AccountPage"][];
  selected: string;
  onSelect: (name: string) => void;
  onPage: (page: number) => void;
}

/** Everyone, however many: only the rows in view exist, and only their pages are fetched. */
export function AccountTable({ total, pages, selected, onSelect, onPage }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer keeps its own state on purpose
  const virtual = useVirtualizer({ count: total, getScrollElement: () => frame.current, estimateSize: () => 30, overscan: 12 });
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
    requestAnimationFrame(() => frame.current?.querySelector<HTMLElement>(`[data-row="${next}"]`)?.focus());
  };

  return (
    <div role="table" aria-label="Accounts" aria-rowcount={total + 1} className="flex min-h-0 flex-1 flex-col">
      <div role="rowgroup">
        <div role="row" className={`${GRID} h-7 border-y border-line bg-[#ece7db] text-xs font-medium`}>
          {["Account", "Display name", "Policy", "Why", "Password expires", "State"].map((title) => (
            <span role="columnheader" key={title}>
              {title}
            </span>
          ))}
        </div>
      </div>
      <div ref={frame} role="rowgroup" className="min-h-0 flex-1 overflow-y-auto" data-testid="rows">
        <div role="presentation" style={{ height: virtual.getTotalSize(), position: "relative" }}>
          {items.map((item) => {
            const row = rowAt(item.index);
            return (
              <div
                key={item.key}
                role="row"
                aria-rowindex={item.index + 2}
                data-row={item.index}
                tabIndex={item.index === at ? 0 : -1}
                className={`${GRID} absolute inset-x-0 h-[30px] cursor-pointer border-b border-line/60 ${row && row.name === selected ? "bg-white font-medium shadow-[inset_3px_0_0_var(--color-ink)]" : "hover:bg-sheet"} focus-visible:outline-offset-[-2px]`}
                style={{ transform: `translateY(${item.start}px)` }}
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
                {row ? <Cells row={row} /> : <span role="cell" className="h-3 w-24 rounded bg-line" />}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

function Cells({ row }: { row: Row }) {
  const expiry = { never: "never", now: row.expires_at ? "expired" : "must change", unknown: "?", at: row.expires_at ? awayText(row.expires_at) : "–" }[row.expiry];
  return (
    <>
      <span role="cell" className="truncate">
        {row.name}
      </span>
      <span role="cell" className="truncate text-soft">
        {row.display_name}
      </span>
      <span role="cell" className="flex min-w-0 items-center gap-1.5">
        <PolicyTag mark={row.mark} name={row.policy_name} />
      </span>
      {row.was ? (
        <span role="cell" className="truncate text-warn" title={`live: ${row.was}`}>
          was {row.was}
        </span>
      ) : (
        <span role="cell" className="truncate text-soft">
          {WHY[row.source]}
        </span>
      )}
      <span role="cell" className={row.expiry === "now" ? "text-fail" : ""}>
        {expiry}
      </span>
      <span role="cell" className="truncate text-xs" title={row.flags.join(", ")}>
        {row.locked && <strong className="text-fail">Locked </strong>}
        <span className="text-soft">{row.flags.join(", ")}</span>
      </span>
    </>
  );
}
