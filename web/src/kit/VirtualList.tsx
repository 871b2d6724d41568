import { useRef, type ReactNode } from "react";
import { useVirtualizer } from "@tanstack/react-virtual";

interface Props<T> {
  label: string;
  items: T[];
  keyOf: (item: T) => string | number;
  /** How one is shown. */
  children: (item: T) => ReactNode;
  className: string;
  /** What stands above and below the lines, and scrolls with them. */
  before?: ReactNode;
  after?: ReactNode;
}

/** Lines below one another, of which only those are drawn that are seen. */
export function VirtualList<T>({
  label,
  items,
  keyOf,
  children,
  className,
  before,
  after,
}: Props<T>) {
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer keeps its own state on purpose
  const rows = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 42,
    overscan: 12,
    getItemKey: (index) => {
      const item = items[index];
      return item === undefined ? index : keyOf(item);
    },
  });
  return (
    <div
      ref={scroller}
      tabIndex={0}
      role="group"
      aria-label={label}
      className={`overflow-y-auto ${className}`}
    >
      {before}
      <ol className="relative" style={{ height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map((row) => {
          const item = items[row.index];
          return (
            item !== undefined && (
              <li
                key={row.key}
                ref={rows.measureElement}
                data-index={row.index}
                className="absolute inset-x-0 border-b border-line/60 py-1"
                style={{ transform: `translateY(${row.start}px)` }}
              >
                {children(item)}
              </li>
            )
          );
        })}
      </ol>
      {after}
    </div>
  );
}
