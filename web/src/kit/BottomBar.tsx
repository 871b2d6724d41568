import { useLayoutEffect, useRef, type ReactNode } from "react";

/**
 * A bar at the foot of a panel that scrolls. The field that has the focus stays above the bar, also
 * while the bar grows.
 */
export function BottomBar({ className, children }: { className: string; children: ReactNode }) {
  const bar = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    const own = bar.current;
    const panel = own?.closest<HTMLElement>("#details");
    if (!own || !panel) return;
    const watch = new ResizeObserver(() => {
      panel.style.scrollPaddingBottom = `${own.offsetHeight + 8}px`;
      const focused = document.activeElement;
      const isField = focused?.matches("input, select, textarea");
      if (focused && isField && panel.contains(focused) && !own.contains(focused))
        focused.scrollIntoView({ block: "nearest" });
    });
    watch.observe(own);
    return () => {
      watch.disconnect();
      panel.style.scrollPaddingBottom = "";
    };
  }, []);
  return (
    <div
      ref={bar}
      className={`unprinted sticky bottom-0 mt-auto border-t border-line px-4 ${className}`}
    >
      {children}
    </div>
  );
}
