import { useState, type PointerEvent } from "react";

const LOWEST = 160;
const most = () => Math.max(LOWEST, window.innerHeight - 200);
const within = (height: number) => Math.round(Math.min(most(), Math.max(LOWEST, height)));

/** What is kept under a name of the browser, and how high that stands to begin with, in px. */
const KEPT = { usual: ["bench-height", 284], tall: ["drill-height", 452] } as const;

/** How high the bench stands when it is open: as the person left it, for a tall face by itself. */
export function useBenchHeight(size: keyof typeof KEPT): [number, (height: number) => void] {
  const [heights, setHeights] = useState(() => ({ usual: stored("usual"), tall: stored("tall") }));
  const keep = (next: number) => {
    const fitting = within(next);
    setHeights({ ...heights, [size]: fitting });
    localStorage.setItem(KEPT[size][0], String(fitting));
  };
  return [heights[size], keep];
}

const stored = (size: keyof typeof KEPT) =>
  within(Number(localStorage.getItem(KEPT[size][0])) || KEPT[size][1]);

/** The upper edge of the bench, dragged or moved by the arrow keys. */
export function BenchEdge({
  height,
  onHeight,
}: {
  height: number;
  onHeight: (height: number) => void;
}) {
  const drag = (event: PointerEvent<HTMLDivElement>) => {
    const { clientY } = event;
    const target = event.currentTarget;
    target.setPointerCapture(event.pointerId);
    const move = (moved: globalThis.PointerEvent) => onHeight(height + clientY - moved.clientY);
    target.addEventListener("pointermove", move);
    target.addEventListener(
      "lostpointercapture",
      () => target.removeEventListener("pointermove", move),
      { once: true },
    );
  };
  return (
    <div
      role="separator"
      aria-orientation="horizontal"
      aria-label="Height of the bench"
      aria-valuenow={height}
      aria-valuemin={LOWEST}
      aria-valuemax={most()}
      tabIndex={0}
      className="absolute inset-x-0 -top-1 z-10 h-2 cursor-row-resize touch-none after:absolute after:inset-x-0 after:top-0.5 after:h-[3px] hover:after:bg-line focus-visible:outline-none focus-visible:after:bg-focus small:hidden"
      onPointerDown={drag}
      onKeyDown={(event) => {
        const step = { ArrowUp: 24, ArrowDown: -24, PageUp: 120, PageDown: -120 }[event.key];
        if (!step) return;
        event.preventDefault();
        onHeight(height + step);
      }}
    />
  );
}
