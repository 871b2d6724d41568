import {
  memo,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
} from "react";
import type { Schemas } from "../api/client";
import { useUrlState } from "../shared/useUrlState";
import { useZoom } from "./Zoom";
import { hiddenIn, layOut, othersIn, prefixOf, REST } from "./columns";
import type { RowActions } from "./LayerRow";
import { LayerRows } from "./LayerRows";
import { Lines } from "./Lines";
import { SectionFoot } from "./SectionFoot";
import { SectionHead } from "./SectionHead";
import { useLayerDrag } from "./useLayerDrag";
import type { WeighingState } from "./useWeighing";

type Strata = Schemas["Strata"];

const ROW = 37;
const HEAD = 44;

/** How wide the names of the layers stand: narrow in a narrow frame. */
const labelsIn = (width: number) =>
  width < 420 ? 140 : width < 640 ? 190 : width < 880 ? 222 : 246;

/** The place in the grid that something belongs to, and what is said of it. */
function placeOf(target: EventTarget) {
  const found = target instanceof Element ? target.closest<HTMLElement>("[data-at]") : null;
  if (!found) return null;
  const [row = 0, column = 0] = (found.dataset.at ?? "").split(":").map(Number);
  return { row, column, sentence: found.ariaLabel ?? found.title };
}

interface Props {
  domain: string;
  strata: Strata;
  /** Whether all layers are shown: a place among some of them would mean nothing. */
  whole: boolean;
  /** Open findings by policy. */
  raised: Map<string, number>;
  selected: string;
  onSelect: (guid: string) => void;
  onRead: (sentence: string) => void;
  weighing: WeighingState;
}

/**
 * The section through the strata: layers in evaluation order, bedrock below, populations as
 * columns.
 */
export function Section({
  domain,
  strata,
  whole,
  raised,
  selected,
  onSelect,
  onRead,
  weighing,
}: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const table = useRef<HTMLTableElement>(null);
  const [width, setWidth] = useState(832);
  const [all, setAll] = useUrlState("all");
  const [at, setAt] = useState({ row: 0, column: 0 });
  const { layers, populations, bedrock } = strata;

  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(entry.target.clientWidth));
    watch.observe(element);
    setWidth(element.clientWidth);
    return () => watch.disconnect();
  }, []);

  const labels = labelsIn(width);
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
      layOut(
        populations,
        (width - labels - 32) * zoom,
        all === "1",
        first,
        strata.unlisted.populations > 0,
      ),
    [populations, width, labels, zoom, all, first, strata.unlisted],
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
  const rowOf = useMemo(() => new Map(layers.map((layer, row) => [layer.guid, row])), [layers]);
  const rows = layers.length + 1;
  const columns = laid.columns.length + (more > 0 ? 2 : 1);

  useEffect(() => {
    const element = table.current?.querySelector<HTMLElement>(`[data-at="${at.row}:${at.column}"]`);
    if (element && table.current?.contains(document.activeElement)) element.focus();
  }, [at]);

  const onKeyDown = (event: KeyboardEvent) => {
    const place = placeOf(event.target);
    const layer = place && place.column > 0 ? layers[place.row] : undefined;
    if (layer && (event.key === "Enter" || event.key === " ")) {
      event.preventDefault();
      onSelect(layer.guid);
      return;
    }
    const step = { ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowRight: [0, 1], ArrowLeft: [0, -1] }[
      event.key
    ];
    if (!step || event.shiftKey) return;
    event.preventDefault();
    setAt(({ row, column }) => ({
      row: Math.min(rows - 1, Math.max(0, row + (step[0] ?? 0))),
      column: Math.min(columns - 1, Math.max(0, column + (step[1] ?? 0))),
    }));
  };

  const moves = useMemo(
    () => new Map(weighing.answer?.moves.map((m) => [m.population, m])),
    [weighing.answer],
  );
  const target =
    weighing.weighing && weighing.answer
      ? weighing.answer.order.indexOf(weighing.weighing.guid)
      : -1;
  const source = layers.findIndex((l) => l.guid === weighing.weighing?.guid);
  const drag = useLayerDrag(layers, weighing);

  // What the rows do stays the same thing for them, so that scrolling draws only those that come
  // into sight.
  const latest = useRef({ onSelect, whole, drag, weighing });
  useEffect(() => {
    latest.current = { onSelect, whole, drag, weighing };
  });
  const act = useMemo<RowActions>(
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

  const showAll = useCallback(() => setAll("1"), [setAll]);

  return (
    <div
      ref={frame}
      className="min-h-0 flex-1 overflow-auto px-4 small:px-2"
      onMouseLeave={() => onRead("")}
    >
      <div className="relative" style={{ width: labels + laid.width }}>
        <table
          ref={table}
          role="grid"
          aria-label="Policies by precedence, and the populations they reach"
          aria-rowcount={rows + 1}
          aria-colcount={columns}
          className="table-fixed border-separate border-spacing-0"
          style={{ width: labels + laid.width }}
          onKeyDown={onKeyDown}
          onFocus={({ target }) => {
            const place = placeOf(target);
            if (!place) return;
            setAt({ row: place.row, column: place.column });
            onRead(place.sentence);
          }}
          onMouseOver={({ target }) => {
            const place = placeOf(target);
            if (place) onRead(place.sentence);
          }}
          onClick={({ target }) => {
            const place = placeOf(target);
            const layer = place && place.column > 0 ? layers[place.row] : undefined;
            if (layer) onSelect(layer.guid);
          }}
        >
          <colgroup>
            <col style={{ width: labels }} />
            {laid.columns.map((c) => (
              <col key={c.population.key} style={{ width: c.width }} />
            ))}
            {more > 0 && <col style={{ width: REST }} />}
          </colgroup>
          <SectionHead
            domain={domain}
            columns={laid.columns}
            prefix={prefix}
            chosen={chosen}
            moves={moves}
            more={more}
            onMore={laid.rest.length > 0 ? showAll : undefined}
            onRead={onRead}
            height={HEAD}
          />
          <LayerRows
            frame={frame}
            layers={layers}
            columns={laid.columns}
            hidden={hidden}
            selected={selected}
            raised={raised}
            taken={weighing.weighing?.guid}
            at={at}
            act={act}
            height={ROW}
            head={HEAD}
          />
          <SectionFoot
            bedrock={bedrock}
            columns={laid.columns}
            others={others}
            row={layers.length}
            tab={at.row === layers.length ? at.column : -1}
            height={ROW + 4}
            onSelect={onSelect}
          />
        </table>
        {laid.columns.map(({ population, left, width: w }) =>
          moves.has(population.key) ? (
            <div
              key={population.key}
              aria-hidden
              className="pointer-events-none absolute rounded border-2 border-warn bg-warn/15"
              style={{
                left: labels + left,
                width: w,
                top: HEAD,
                height: layers.length * ROW + ROW + 4,
              }}
            />
          ) : null,
        )}
        {whole && target >= 0 && target !== source && (
          <div
            aria-hidden
            data-testid="target"
            className="pointer-events-none absolute h-[3px] bg-warn"
            style={{
              left: 0,
              width: labels + laid.width,
              top: HEAD - 1 + (target > source ? target + 1 : target) * ROW,
            }}
          />
        )}
        <Lines
          columns={laid.columns}
          rowOf={rowOf}
          layers={layers}
          left={labels}
          top={HEAD}
          row={ROW}
          width={laid.width}
        />
        <Idle layers={layers} left={labels + 8} width={laid.width - 16} />
      </div>
    </div>
  );
}

/** Why a layer reaches nobody, where its cells would be. */
const Idle = memo(function Idle({
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
