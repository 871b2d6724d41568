import { useLayoutEffect, useState, type RefObject } from "react";

/** The width of the frame that scrolls, in px, known before the first drawing. */
export function useFrameWidth(frame: RefObject<HTMLElement | null>) {
  const [width, setWidth] = useState(832);
  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(entry.target.clientWidth));
    watch.observe(element);
    // eslint-disable-next-line react-hooks/set-state-in-effect -- known before the first drawing
    setWidth(element.clientWidth);
    return () => watch.disconnect();
  }, [frame]);
  return width;
}
