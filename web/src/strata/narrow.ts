// A view of the strata cut down to what somebody is looking for: layers by name, or what one layer
// touches.
import type { Schemas } from "../api/client";

type Strata = Schemas["Strata"];

export function narrow(strata: Strata, words: string, focus: string): Strata {
  if (!words && !focus) return strata;
  const folded = words.toLowerCase();
  let { layers, populations } = strata;
  if (focus) {
    populations = populations.filter((p) =>
      focus === "domain" ? p.winner === "domain" : p.cells.some((c) => c.guid === focus),
    );
    const touched = new Set(populations.flatMap((p) => p.cells.map((c) => c.guid)));
    layers = layers.filter((l) => touched.has(l.guid) || l.guid === focus);
  }
  if (folded) {
    layers = layers.filter(
      (l) => l.name.toLowerCase().includes(folded) || String(l.precedence) === folded,
    );
    const kept = new Set(layers.map((l) => l.guid));
    populations = populations.filter((p) => p.cells.some((c) => kept.has(c.guid)));
  }
  return { ...strata, layers, populations };
}
