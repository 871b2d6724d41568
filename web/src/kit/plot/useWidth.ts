import { useCallback, useState } from "react";

/** The width of an element that is drawn into, in px: 0 until it is there. */
export function useWidth(): [(element: HTMLElement | null) => void, number] {
  const [width, setWidth] = useState(0);
  const ref = useCallback((element: HTMLElement | null) => {
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(entry.target.clientWidth));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  return [ref, width];
}
