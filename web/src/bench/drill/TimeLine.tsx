import type { ScaleLinear } from "d3-scale";
import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import { spanText, plural } from "../../shared/span";
import {
  clustersOf,
  LANES,
  nudge,
  type Cluster,
  type EventAt,
  type Kind,
  type View,
} from "./story";

/** Closer together than this, in px, events are drawn as one. */
const APART = 13;
const LANE = 21;

interface Props {
  events: EventAt[];
  /** Seconds to px. */
  x: ScaleLinear<number, number>;
  view: View;
  selected: number[];
  onSelect: (events: number[]) => void;
  onMove: (events: number[], by: number) => void;
  /** An event has been taken, or let go. */
  onGrab: (taken: boolean) => void;
  onRemove: (events: number[]) => void;
  onAdd: (kind: Kind, at: number) => void;
}

/**
 * The events of a story in four lanes. A click in a lane adds one; an event is dragged or moved by
 * the arrow keys, and taken out by Delete. Up and down go from one to the next.
 */
export function TimeLine({
  events,
  x,
  view,
  selected,
  onSelect,
  onMove,
  onGrab,
  onRemove,
  onAdd,
}: Props) {
  const lanes = useRef<HTMLDivElement>(null);
  const [low, high] = x.range() as [number, number];
  const gap = x.invert(low + APART) - x.invert(low);
  const clusters = clustersOf(events, gap, selected);
  const shown = clusters.filter(({ start, end }) => end >= view.start && start <= view.end);
  const at = shown.findIndex((cluster) => cluster.events.some((n) => selected.includes(n)));

  const go = (to: number) => {
    const next = shown[Math.max(0, Math.min(shown.length - 1, to))];
    if (!next) return;
    onSelect(next.events);
    lanes.current
      ?.querySelector<HTMLElement>(`[data-event="${next.events[0]}"]`)
      ?.focus({ preventScroll: true });
  };
  const key = (event: KeyboardEvent, cluster: Cluster) => {
    const here = shown.indexOf(cluster);
    const by = nudge(view) * (event.shiftKey ? 10 : 1);
    const act = {
      ArrowLeft: () => onMove(cluster.events, -by),
      ArrowRight: () => onMove(cluster.events, by),
      ArrowUp: () => go(here - 1),
      ArrowDown: () => go(here + 1),
      Home: () => go(0),
      End: () => go(shown.length - 1),
      Delete: () => onRemove(cluster.events),
      Backspace: () => onRemove(cluster.events),
    }[event.key];
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };
  const drag = (event: PointerEvent<HTMLButtonElement>, cluster: Cluster) => {
    const target = event.currentTarget;
    const from = event.clientX;
    target.setPointerCapture(event.pointerId);
    onSelect(cluster.events);
    onGrab(true);
    const perPixel = (view.end - view.start) / (high - low);
    const step = Math.max(1, Math.round(nudge(view) / 2));
    // From where it was grabbed: `onMove` as it is here moves the story as it was then.
    const move = (moving: globalThis.PointerEvent) =>
      onMove(cluster.events, Math.round(((moving.clientX - from) * perPixel) / step) * step);
    target.addEventListener("pointermove", move);
    target.addEventListener(
      "lostpointercapture",
      () => {
        target.removeEventListener("pointermove", move);
        onGrab(false);
      },
      { once: true },
    );
  };

  return (
    <div
      ref={lanes}
      role="group"
      aria-label="Time line"
      className="relative"
      style={{ width: high }}
    >
      {LANES.map((lane) => (
        <div
          key={lane.kind}
          className="relative cursor-copy border-b border-line/70 bg-sheet"
          style={{ height: LANE, marginLeft: low }}
          title={`Click to add ${lane.label} here`}
          onClick={(event) => {
            if (event.target !== event.currentTarget) return;
            const box = event.currentTarget.getBoundingClientRect();
            const step = nudge(view);
            const moment = x.invert(low + event.clientX - box.left);
            onAdd(lane.kind, Math.max(0, Math.round(moment / step) * step));
          }}
        >
          <span
            aria-hidden
            className="pointer-events-none absolute top-0.5 w-16 pr-1.5 text-right text-xs text-soft"
            style={{ left: -78 }}
          >
            {lane.label}
          </span>
          {shown
            .filter((cluster) => cluster.kind === lane.kind)
            .map((cluster) => (
              <Event
                key={cluster.events[0]}
                cluster={cluster}
                sign={lane.sign}
                left={x(cluster.start) - low}
                width={Math.max(0, x(cluster.end) - x(cluster.start))}
                selected={cluster.events.some((n) => selected.includes(n))}
                tabbed={at === -1 ? cluster === shown[0] : cluster === shown[at]}
                onKey={(event) => key(event, cluster)}
                onGrab={(event) => drag(event, cluster)}
                onFocus={() => onSelect(cluster.events)}
              />
            ))}
        </div>
      ))}
    </div>
  );
}

const COLOURS: Record<Kind, string> = {
  bad: "text-fail border-fail",
  good: "text-pass border-pass",
  old: "text-soft border-edge",
  unlock: "text-ink border-ink",
};

const NAMES: Record<Kind, string> = {
  bad: "Bad try",
  good: "Good try",
  old: "Retry of an older password",
  unlock: "Unlock",
};

function Event({
  cluster,
  sign,
  left,
  width,
  selected,
  tabbed,
  onKey,
  onGrab,
  onFocus,
}: {
  cluster: Cluster;
  sign: string;
  left: number;
  width: number;
  selected: boolean;
  tabbed: boolean;
  onKey: (event: KeyboardEvent) => void;
  onGrab: (event: PointerEvent<HTMLButtonElement>) => void;
  onFocus: () => void;
}) {
  const many = cluster.events.length;
  const when =
    many === 1
      ? `at ${spanText(cluster.start)}`
      : `${plural(many, "time")}, from ${spanText(cluster.start)} to ${spanText(cluster.end)}`;
  const name = `${NAMES[cluster.kind]} ${when}`;
  return (
    <button
      type="button"
      data-event={cluster.events[0]}
      aria-label={name}
      title={`${name}. Drag it, or move it by the arrow keys; Delete takes it out.`}
      aria-pressed={selected}
      tabIndex={tabbed ? 0 : -1}
      className={`absolute top-px z-10 flex h-5 min-w-5 -translate-x-2.5 cursor-grab touch-none items-center gap-1 rounded-full border bg-white px-[3px] font-mono text-[11px] leading-none ${COLOURS[cluster.kind]} ${selected ? "ring-2 ring-focus" : ""}`}
      style={{ left, width: many > 1 ? Math.max(36, width + 20) : undefined }}
      onKeyDown={onKey}
      onPointerDown={onGrab}
      onFocus={onFocus}
    >
      <span className="w-3 text-center">{sign}</span>
      {many > 1 && <span className="truncate">{many}</span>}
    </button>
  );
}
