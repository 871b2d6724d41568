import { Button } from "../kit/Button";
import { useUrlState } from "../shared/useUrlState";

const MOST = 16;

/**
 * How wide the section is drawn, as a multiple of the frame: at 1 it fits, wider it scrolls and
 * more populations get a column.
 */
export function useZoom(): [number, (factor: number) => void] {
  const [zoom, setZoom] = useUrlState("zoom");
  const factor = Math.min(MOST, Math.max(1, Number(zoom) || 1));
  return [factor, (next) => setZoom(next > 1 ? String(Math.min(MOST, next)) : "")];
}

export function Zoom() {
  const [factor, set] = useZoom();
  return (
    <span role="group" aria-label="Zoom" className="ml-auto flex items-center gap-1">
      <Button onClick={() => set(factor / 2)} disabled={factor === 1} aria-label="Draw narrower">
        −
      </Button>
      <span className="w-16 text-center text-soft" aria-live="polite">
        {factor === 1 ? "fits" : `${factor} × wide`}
      </span>
      <Button onClick={() => set(factor * 2)} disabled={factor === MOST} aria-label="Draw wider">
        +
      </Button>
    </span>
  );
}
