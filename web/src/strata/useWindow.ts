import { useEffect, useState, type RefObject } from "react";

const MARGIN = 10;
const STEP = 2;
const FEW = 40;

/**
 * Which rows of a long section are in sight, some above and below included: only those are drawn.
 */
export function useWindow(
  frame: RefObject<HTMLElement | null>,
  rows: number,
  height: number,
  head: number,
) {
  const [seen, setSeen] = useState({ first: 0, end: FEW });

  useEffect(() => {
    const element = frame.current;
    if (!element || rows <= FEW) return;
    const look = () => {
      const top = Math.floor((element.scrollTop - head) / height) - MARGIN;
      const end = Math.ceil((element.scrollTop + element.clientHeight) / height) + MARGIN;
      // In steps, so that scrolling draws anew only now and then.
      const next = { first: Math.max(0, top - (top % STEP)), end: end + (STEP - (end % STEP)) };
      setSeen((before) => (before.first === next.first && before.end === next.end ? before : next));
    };
    look();
    const watch = new ResizeObserver(look);
    watch.observe(element);
    element.addEventListener("scroll", look, { passive: true });
    return () => {
      watch.disconnect();
      element.removeEventListener("scroll", look);
    };
  }, [frame, rows, height, head]);

  return rows <= FEW
    ? { first: 0, end: rows }
    : { first: Math.min(seen.first, rows), end: Math.min(seen.end, rows) };
}
