import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from "react";
import type { Schemas } from "../api/client";
import { REST } from "./columns";
import { useRowActions } from "./useRowActions";
import { LayerRows } from "./LayerRows";
import { Idle } from "./Idle";
import { Lines } from "./Lines";
import { SectionFoot } from "./SectionFoot";
import { SectionHead } from "./SectionHead";
import { HEAD, ROW } from "./sizes";
import { useFrameWidth } from "./useFrameWidth";
import { useLayerDrag } from "./useLayerDrag";
import { useLayout } from "./useLayout";
import { WeighMarks } from "./WeighMarks";
import type { WeighingState } from "./useWeighing";

type Strata = Schemas["Strata"];

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

/** The cell that an arrow key leads to; null for any other key. */
function stepped({ row, column }: { row: number; column: number }, event: KeyboardEvent) {
  const step = { ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowRight: [0, 1], ArrowLeft: [0, -1] }[
    event.key
  ];
  return step && !event.shiftKey
    ? { row: row + (step[0] ?? 0), column: column + (step[1] ?? 0) }
    : null;
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
  const width = useFrameWidth(frame);
  const [at, setAt] = useState({ row: 0, column: 0 });
  const { layers, bedrock } = strata;

  const labels = labelsIn(width);
  const { laid, chosen, more, hidden, others, prefix, showAll } = useLayout(
    strata,
    width - labels,
    selected,
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
    const next = layer && (event.key === "Enter" || event.key === " ") ? at : stepped(at, event);
    if (!next) return;
    event.preventDefault();
    if (layer && next === at) onSelect(layer.guid);
    else
      setAt({
        row: Math.min(rows - 1, Math.max(0, next.row)),
        column: Math.min(columns - 1, Math.max(0, next.column)),
      });
  };

  const moves = useMemo(
    () => new Map(weighing.answer?.moves.map((m) => [m.population, m])),
    [weighing.answer],
  );
  const drag = useLayerDrag(layers, weighing);

  const act = useRowActions({ onSelect, whole, drag, weighing });

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
        <WeighMarks
          columns={laid.columns}
          moves={moves}
          layers={layers}
          weighing={whole ? weighing : null}
          left={labels}
          width={laid.width}
        />
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
