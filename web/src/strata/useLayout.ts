import { useCallback, useMemo } from "react";
import type { Schemas } from "../api/client";
import { useUrlState } from "../shared/useUrlState";
import { hiddenIn, layOut, othersIn, prefixOf } from "./columns";
import { useZoom } from "./Zoom";

/** The columns of the section in a room of so many px, and the populations without a column. */
export function useLayout(strata: Schemas["Strata"], room: number, selected: string) {
  const { layers, populations } = strata;
  const [all, setAll] = useUrlState("all");
  const [zoom] = useZoom();
  const [show] = useUrlState("show");
  // Those asked for by name, and those that the selected policy reaches, have a column before all
  // others.
  const chosen = useMemo(() => new Set(show.split(",").filter(Boolean)), [show]);
  const first = useMemo(
    () =>
      new Set([
        ...chosen,
        ...populations
          .filter((p) =>
            selected === "domain"
              ? p.winner === "domain"
              : p.cells.some((c) => c.guid === selected),
          )
          .map((p) => p.key),
      ]),
    [chosen, populations, selected],
  );
  const laid = useMemo(
    () =>
      layOut(populations, (room - 32) * zoom, all === "1", first, strata.unlisted.populations > 0),
    [populations, room, zoom, all, first, strata.unlisted],
  );
  const more = laid.rest.length + strata.unlisted.populations;
  const hidden = useMemo(
    () => (more > 0 ? hiddenIn(laid.rest, layers) : undefined),
    [more, laid, layers],
  );
  const prefix = useMemo(() => prefixOf(populations), [populations]);
  const others = useMemo(
    () => (more > 0 ? othersIn(laid.rest, strata.unlisted) : null),
    [more, laid, strata.unlisted],
  );
  const showAll = useCallback(() => setAll("1"), [setAll]);
  return { laid, chosen, more, hidden, others, prefix, showAll };
}
