import { line } from "d3-shape";
import { useId, type KeyboardEvent, type PointerEvent, type Ref } from "react";
import type { Schemas } from "../api/client";
import { PlotFrame, type Box } from "../kit/plot/PlotFrame";
import { FACTOR_TICKS } from "../kit/plot/time";
import { spanText } from "../shared/span";
import { PlotMark } from "./PlotMark";
import { placeOfMark, scalesOf, settingsAt, spread, type Place, type PolicyMark } from "./plane";

const THRESHOLDS = [1, 2, 3, 5, 10, 20, 50];

/** A mark that is being moved: whose, and where it stands by now. */
export interface Moving {
  key: string;
  /** The state of the policy that was seen when it was taken up. */
  version: number;
  threshold: number;
  span: number;
}

/** Times that an arrow key goes through, in seconds. */
const TIMES = [
  1, 2, 5, 10, 15, 20, 30, 45, 60, 90, 120, 240, 480, 720, 1440, 2880, 5760, 10080,
].map((minutes) => minutes * 60);

interface Props {
  plane: Schemas["Tradeoff"];
  width: number;
  height: number;
  moving: Moving | null;
  onMove: (moving: Moving) => void;
  onSave: () => void;
  onGiveUp: () => void;
  drawing: Ref<SVGSVGElement>;
}

const idOf = (mark: PolicyMark) => `${mark.kind}-${mark.key}`;
const TITLES = { duration: "lockout duration", window: "observation window" } as const;

/**
 * Thresholds against times: lines of equal chance, what thresholds cost people, and every policy as
 * a mark. A mark is dragged, or moved by the arrow keys; nothing is saved before it is said so.
 */
export function Plot({ plane, width, height, moving, onMove, onSave, onGiveUp, drawing }: Props) {
  const clip = useId();
  const box: Box = { left: 62, right: width - 4, top: 40, bottom: height - 40 };
  const scales = scalesOf(plane, box);
  const { x, y, beyond } = scales;
  const marks = plane.marks.map((mark) =>
    moving && mark.kind === "policy" && mark.key === moving.key
      ? { ...mark, threshold: moving.threshold, span: moving.span }
      : mark,
  );
  const places = spread(marks, scales);
  const draw = line<Schemas["LinePoint"]>(
    (point) => x(point.threshold),
    (point) => y(point.span),
  );
  return (
    <div className="relative" style={{ width, height }}>
      <PlotFrame
        drawing={drawing}
        width={width}
        height={height}
        box={box}
        label={`Lockout threshold against ${TITLES[plane.plane]}, with lines of equal chance for ${plane.policy_name}`}
        textures={[...new Set(marks.map((mark) => mark.mark))].map((mark) => ({
          id: `${clip}${mark}`,
          mark,
        }))}
        bottom={{
          title: "lockout threshold, bad tries",
          ticks: [
            ...THRESHOLDS.map((n) => ({ at: x(n), label: String(n) })),
            { at: beyond.x, label: "never" },
          ],
        }}
        top={{
          title: "accounts locked by typing mistakes, in 1,000 sign-ins",
          ticks: plane.burdens.map((b) => ({ at: x(b.threshold), label: b.shown })),
        }}
        left={{
          title: TITLES[plane.plane],
          ticks: [
            ...FACTOR_TICKS.map((span) => ({ at: y(span), label: spanText(span) })),
            ...(plane.plane === "duration" ? [{ at: beyond.y, label: "by hand" }] : []),
          ],
        }}
      >
        {plane.lines.map((one) => {
          const end = one.points.at(-1);
          return (
            <g key={one.chance}>
              <path
                d={draw(one.points) ?? ""}
                fill="none"
                stroke="var(--color-ink)"
                strokeWidth="1"
                strokeDasharray="5 3"
              />
              {end && (
                <text
                  x={Math.min(x(end.threshold), beyond.x - 22) - 4}
                  y={y(end.span) - 5}
                  textAnchor="end"
                  stroke="var(--color-sheet)"
                  strokeWidth="3"
                  paintOrder="stroke"
                >
                  {one.shown}
                </text>
              )}
            </g>
          );
        })}
        {marks.map((mark) => {
          const at = places.get(mark) ?? placeOfMark(mark, scales);
          return (
            <PlotMark
              key={idOf(mark)}
              mark={mark}
              at={at}
              fill={`url(#${clip}${mark.mark})`}
              own={mark.key === plane.policy}
            />
          );
        })}
      </PlotFrame>
      {marks.map((mark) => {
        if (mark.version === null) return null;
        const at = places.get(mark) ?? placeOfMark(mark, scales);
        const taken = moving?.key === mark.key ? moving : { key: mark.key, version: mark.version };
        return (
          <Handle
            key={idOf(mark)}
            mark={mark}
            shown={at}
            place={placeOfMark(mark, scales)}
            moved={taken === moving}
            onPlace={(to) => onMove({ ...taken, ...settingsAt(to, scales) })}
            onStep={(across, up) => onMove({ ...taken, ...stepped(mark, across, up) })}
            onSave={onSave}
            onGiveUp={onGiveUp}
          />
        );
      })}
    </div>
  );
}

function stepped(mark: PolicyMark, across: number, up: number) {
  const span = mark.span ?? 1800;
  const next =
    up > 0
      ? TIMES.find((time) => time > span)
      : up < 0
        ? TIMES.findLast((time) => time < span)
        : span;
  return { threshold: Math.max(1, mark.threshold + across), span: next ?? span };
}

/** What a mark is taken by. */
function Handle({
  mark,
  shown,
  place,
  moved,
  onPlace,
  onStep,
  onSave,
  onGiveUp,
}: {
  mark: PolicyMark;
  /** Where it is drawn: beside its place, where others stand there too. */
  shown: Place;
  place: Place;
  moved: boolean;
  onPlace: (place: Place) => void;
  onStep: (across: number, up: number) => void;
  onSave: () => void;
  onGiveUp: () => void;
}) {
  const grab = (event: PointerEvent<HTMLButtonElement>) => {
    const target = event.currentTarget;
    const { clientX, clientY } = event;
    target.setPointerCapture(event.pointerId);
    const move = (moving: globalThis.PointerEvent) =>
      onPlace({ x: place.x + moving.clientX - clientX, y: place.y + moving.clientY - clientY });
    target.addEventListener("pointermove", move);
    target.addEventListener(
      "lostpointercapture",
      () => target.removeEventListener("pointermove", move),
      { once: true },
    );
  };
  const key = (event: KeyboardEvent) => {
    const act = {
      ArrowLeft: () => onStep(-1, 0),
      ArrowRight: () => onStep(1, 0),
      ArrowUp: () => onStep(0, 1),
      ArrowDown: () => onStep(0, -1),
      Enter: onSave,
      Escape: onGiveUp,
    }[event.key];
    if (!act || ((event.key === "Enter" || event.key === "Escape") && !moved)) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };
  const name = `${mark.name}: ${saidOf(mark)}`;
  return (
    <button
      type="button"
      aria-label={name}
      title={`${name}. Drag it, or move it by the arrow keys.`}
      data-mark={mark.key}
      className={`absolute size-6 cursor-grab touch-none rounded ${moved ? "ring-2 ring-focus" : ""}`}
      style={{ left: shown.x - 12, top: shown.y - 12 }}
      onPointerDown={grab}
      onKeyDown={key}
    />
  );
}

export function saidOf(mark: Pick<PolicyMark, "threshold" | "span">): string {
  if (mark.threshold === 0) return "never locks";
  const time = mark.span === null ? "until unlocked" : spanText(mark.span);
  return `${mark.threshold} bad ${mark.threshold === 1 ? "try" : "tries"}, ${time}`;
}
