import {
  memo,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
} from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { lookOf } from "../shared/look";
import { plural, summary } from "../shared/span";
import { useUrlState } from "../shared/useUrlState";
import { useWindow } from "./useWindow";
import { useZoom } from "./Zoom";
import { layOut, prefixOf, shortened, type Column } from "./columns";
import { LayerRow, type RowActions } from "./LayerRow";
import { Lines } from "./Lines";
import { useLayerDrag } from "./useLayerDrag";
import type { WeighingState } from "./useWeighing";
import { at } from "../draft/place";

type Strata = Schemas["Strata"];

const ROW = 37;
const HEAD = 44;
const COUNTS = 22;

/** How wide the names of the layers stand: narrow in a narrow frame. */
const labelsIn = (width: number) =>
  width < 420 ? 140 : width < 640 ? 190 : width < 880 ? 222 : 246;

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
            selected === "domain" ? p.winner === null : p.cells.some((c) => c.guid === selected),
          )
          .map((p) => p.key),
      ]),
    [chosen, populations, selected],
  );
  const laid = useMemo(
    () => layOut(populations, (width - labels - 32) * zoom, all === "1", first),
    [populations, width, labels, zoom, all, first],
  );
  const prefix = useMemo(() => prefixOf(populations), [populations]);
  const rowOf = useMemo(() => new Map(layers.map((layer, row) => [layer.guid, row])), [layers]);
  const rows = layers.length + 1;
  const columns = laid.columns.length + 1;

  useEffect(() => {
    const element = table.current?.querySelector<HTMLElement>(`[data-at="${at.row}:${at.column}"]`);
    if (element && table.current?.contains(document.activeElement)) element.focus();
  }, [at]);

  const onKeyDown = (event: KeyboardEvent) => {
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
      select: (guid, byClick) => {
        if (!byClick || !latest.current.drag.moved.current) latest.current.onSelect(guid);
      },
      read: onRead,
      stand: (row, column) => setAt({ row, column }),
      press: (event, guid, row) =>
        latest.current.whole && latest.current.drag.begin(event, guid, row),
      weigh: (guid, by) => latest.current.weighing.step(guid, by),
      take: () => latest.current.weighing.take(),
    }),
    [onRead],
  );

  const drawn = useWindow(frame, layers.length, ROW, HEAD);
  // The place that Tab reaches has to be one that is drawn.
  const reachable =
    at.row >= layers.length ? at.row : Math.min(Math.max(at.row, drawn.first), drawn.end - 1);
  const place = (row: number, column: number) => ({
    "data-at": `${row}:${column}`,
    tabIndex: reachable === row && at.column === column ? 0 : -1,
    onFocus: () => setAt({ row, column }),
  });

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
        >
          <colgroup>
            <col style={{ width: labels }} />
            {laid.columns.map((c) => (
              <col key={c.population.key} style={{ width: c.width }} />
            ))}
            {laid.rest.length > 0 && <col style={{ width: 58 }} />}
          </colgroup>
          <thead className="sticky top-0 z-20 bg-paper">
            <tr style={{ height: HEAD }}>
              <th
                scope="col"
                className="sticky left-0 z-20 bg-paper pb-1 text-left align-bottom text-xs font-normal text-soft"
              >
                {prefix
                  ? `Populations, by their groups (${prefix}…)`
                  : "Populations, by their groups"}
              </th>
              {laid.columns.map((column) => (
                <HeadCell
                  key={column.population.key}
                  domain={domain}
                  column={column}
                  name={shortened(column.population.who, prefix)}
                  chosen={chosen.has(column.population.key)}
                  move={moves.get(column.population.key)}
                  onRead={onRead}
                />
              ))}
              {laid.rest.length > 0 && (
                <th scope="col" className="relative align-bottom">
                  <button
                    className="pb-1 text-xs font-normal underline"
                    onClick={() => setAll("1")}
                  >
                    {laid.rest.length + strata.unlisted.populations} more
                  </button>
                </th>
              )}
            </tr>
          </thead>
          <tbody>
            <Spacer rows={drawn.first} columns={columns + 1} />
            {layers.slice(drawn.first, drawn.end).map((layer, offset) => {
              const row = drawn.first + offset;
              return (
                <LayerRow
                  key={layer.guid}
                  layer={layer}
                  row={row}
                  columns={laid.columns}
                  more={laid.rest.length > 0}
                  selected={layer.guid === selected}
                  raised={raised.get(layer.guid) ?? 0}
                  taking={weighing.weighing?.guid === layer.guid}
                  tab={reachable === row ? at.column : -1}
                  act={act}
                />
              );
            })}
            <Spacer rows={layers.length - drawn.end} columns={columns + 1} />
          </tbody>
          <tfoot className="sticky bottom-0 z-20">
            <tr style={{ height: ROW + 4 }} aria-rowindex={rows + 1}>
              <th scope="row" className="sticky left-0 z-10 bg-bed p-0 text-left font-normal">
                <button
                  {...place(layers.length, 0)}
                  title={`Bedrock: domain policy, ${summary(bedrock.settings)}`}
                  className="block w-full px-2.5 text-left"
                  onClick={() => onSelect("domain")}
                  onMouseEnter={() =>
                    onRead(`The domain policy holds for ${plural(bedrock.governed, "account")}.`)
                  }
                >
                  <span className="block truncate leading-4 font-semibold">
                    Bedrock: domain policy
                  </span>
                  <span className="block truncate text-xs text-soft">
                    {summary(bedrock.settings)} ·{" "}
                    {plural(bedrock.sources.filter((s) => s.at_root).length, "source")}
                  </span>
                </button>
              </th>
              {laid.columns.map((column, number) => (
                <BedrockCell
                  key={column.population.key}
                  column={column}
                  onRead={onRead}
                  place={place(layers.length, number + 1)}
                />
              ))}
              {laid.rest.length > 0 && <td className="bg-bed" />}
            </tr>
            <tr style={{ height: COUNTS }} className="bg-paper">
              <th
                scope="row"
                className="sticky left-0 z-10 bg-paper px-2.5 text-left text-xs font-normal text-soft"
              >
                Accounts
              </th>
              {laid.columns.map(({ population }) => (
                <td
                  key={population.key}
                  className="bg-paper text-center font-mono text-xs text-soft"
                >
                  {population.count.toLocaleString("en")}
                </td>
              ))}
              {laid.rest.length > 0 && (
                <td className="bg-paper text-center font-mono text-xs text-soft">
                  {(
                    laid.rest.reduce((sum, p) => sum + p.count, 0) + strata.unlisted.accounts
                  ).toLocaleString("en")}
                </td>
              )}
            </tr>
          </tfoot>
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

type Place = { "data-at": string; tabIndex: number; onFocus: () => void };

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

/** The place of layers that are out of sight. */
function Spacer({ rows, columns }: { rows: number; columns: number }) {
  return rows > 0 ? (
    <tr aria-hidden style={{ height: rows * ROW }}>
      <td colSpan={columns} />
    </tr>
  ) : null;
}

/**
 * Who stands in a column, level and in two lines at most; what is cut stands whole in the title and
 * the reading line.
 */
const HeadCell = memo(function HeadCell({
  domain,
  column,
  name,
  chosen,
  move,
  onRead,
}: {
  domain: string;
  column: Column;
  name: string;
  chosen: boolean;
  move?: Schemas["MoveInfo"];
  onRead: (s: string) => void;
}) {
  const { population } = column;
  const sentence = `${population.who}: ${plural(population.count, "account")}, ${population.label}. Enter shows them.`;
  const badge =
    "absolute inset-x-0.5 -bottom-[17px] z-10 truncate rounded-b-sm text-center font-mono text-[11px]";
  return (
    <th
      scope="col"
      className={`relative border-b-2 px-0.5 pb-1 align-bottom font-normal ${chosen ? "border-warn" : "border-ink"}`}
    >
      <Link
        to={`/${at(domain)}/accounts?population=${population.key}`}
        title={population.who}
        className={`relative line-clamp-2 text-center text-[11px] leading-[14px] [overflow-wrap:anywhere] hover:underline ${chosen || move ? "font-semibold" : ""}`}
        onFocus={() => onRead(sentence)}
        onMouseEnter={() => onRead(sentence)}
      >
        {breakable(name)}
        <span className="sr-only">
          : {plural(population.count, "account")}, {population.label}. Enter shows them.
        </span>
      </Link>
      {!move && population.moved > 0 && (
        <span
          className={`${badge} border border-t-0 border-warn bg-warnbg text-warn`}
          title={`${plural(population.moved, "account")} of it with another policy than live`}
        >
          {population.moved.toLocaleString("en")}
          <span className="sr-only"> with another policy than live</span>
        </span>
      )}
      {move && (
        <span
          className={`${badge} bg-warn text-white`}
          title={`${plural(move.accounts, "account")} would change policy`}
        >
          {move.accounts.toLocaleString("en")}
        </span>
      )}
    </th>
  );
});

/** A name that may be broken after its hyphens and between its words. */
const breakable = (name: string) =>
  name.split(/(?<=[-_. ])/).map((part, n) => (
    <span key={n}>
      {n > 0 && <wbr />}
      {part}
    </span>
  ));

function BedrockCell({
  column,
  onRead,
  place,
}: {
  column: Column;
  onRead: (s: string) => void;
  place: Place;
}) {
  const { population } = column;
  const holds = population.winner === null;
  const sentence = holds
    ? population.source === "exempt"
      ? `${plural(population.count, "account")}: exempt from fine-grained policies, so the domain policy holds.`
      : `${plural(population.count, "account")}: no policy reaches them, so the domain policy holds.`
    : `${plural(population.count, "account")}: a policy above takes them.`;
  return (
    <td className="bg-bed p-0.5">
      <div
        {...place}
        role="img"
        aria-label={sentence}
        className={`h-[32px] rounded-[3px] ${holds ? "" : "border border-dashed border-edge"}`}
        style={holds ? { backgroundImage: lookOf(null).solid } : undefined}
        onFocus={() => {
          place.onFocus();
          onRead(sentence);
        }}
        onMouseEnter={() => onRead(sentence)}
      />
    </td>
  );
}
