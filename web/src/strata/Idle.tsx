import { memo } from "react";
import type { Schemas } from "../api/client";
import { HEAD, ROW } from "./sizes";

/** Why a layer reaches nobody, where its cells would be. */
export const Idle = memo(function Idle({
  layers,
  left,
  width,
}: {
  layers: Schemas["Layer"][];
  left: number;
  width: number;
}) {
  return layers.map(
    (layer, row) =>
      layer.idle && (
        <p
          key={layer.guid}
          title={layer.idle}
          className="pointer-events-none absolute truncate text-xs text-warn"
          style={{ left, top: HEAD + row * ROW + 10, maxWidth: width }}
        >
          △ {layer.idle}
        </p>
      ),
  );
});
