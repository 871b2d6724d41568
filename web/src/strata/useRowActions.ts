import { useEffect, useMemo, useRef } from "react";
import type { RowActions } from "./LayerRow";
import type { useLayerDrag } from "./useLayerDrag";
import type { WeighingState } from "./useWeighing";

interface Present {
  onSelect: (guid: string) => void;
  whole: boolean;
  drag: ReturnType<typeof useLayerDrag>;
  weighing: WeighingState;
}

/**
 * The actions of rows. The actions stay the same object: scrolling draws only those that come into
 * sight.
 */
export function useRowActions(present: Present) {
  const latest = useRef(present);
  useEffect(() => {
    latest.current = present;
  });
  return useMemo<RowActions>(
    () => ({
      select: (guid) => {
        if (!latest.current.drag.moved.current) latest.current.onSelect(guid);
      },
      press: (event, guid, row) =>
        latest.current.whole && latest.current.drag.begin(event, guid, row),
      weigh: (guid, by) => latest.current.weighing.step(guid, by),
      take: () => latest.current.weighing.take(),
    }),
    [],
  );
}
