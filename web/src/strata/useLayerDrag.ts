import { useEffect, useRef, type PointerEvent as ReactPointerEvent } from "react";
import type { Schemas } from "../api/client";
import type { WeighingState } from "./useWeighing";

const ROW = 37;
const STARTS_AFTER = 6;

/**
 * Dragging a layer weighs the place it is over; letting go leaves the answer standing, to be taken
 * or given up.
 */
export function useLayerDrag(layers: Schemas["Layer"][], weighing: WeighingState) {
  const latest = useRef({ layers, weighing });
  const held = useRef<{ guid: string; row: number; y: number } | null>(null);
  const moved = useRef(false);

  useEffect(() => {
    latest.current = { layers, weighing };
  });
  useEffect(() => {
    const onMove = (event: PointerEvent) => {
      const start = held.current;
      if (!start) return;
      const by = event.clientY - start.y;
      if (!moved.current && Math.abs(by) < STARTS_AFTER) return;
      moved.current = true;
      const { layers: all, weighing: state } = latest.current;
      const place = Math.min(all.length - 1, Math.max(0, start.row + Math.round(by / ROW)));
      if (state.weighing?.guid !== start.guid || state.weighing.place !== place)
        state.setWeighing({ guid: start.guid, place });
    };
    const onUp = () => {
      held.current = null;
      // The click that ends a drag must not select; it comes right after this event.
      setTimeout(() => (moved.current = false));
    };
    window.addEventListener("pointermove", onMove);
    window.addEventListener("pointerup", onUp);
    window.addEventListener("pointercancel", onUp);
    return () => {
      window.removeEventListener("pointermove", onMove);
      window.removeEventListener("pointerup", onUp);
      window.removeEventListener("pointercancel", onUp);
    };
  }, []);

  const begin = (event: ReactPointerEvent<HTMLElement>, guid: string, row: number) => {
    if (event.button === 0) held.current = { guid, row, y: event.clientY };
  };
  return { begin, moved };
}
