// A story as it is placed on the time line: which events, where they lie, what is in view.
import type { Schemas } from "../../api/client";
import { stepFor } from "../../kit/plot/time";

export type EventAt = Schemas["EventAt"];
export type Kind = EventAt["event"];

/** The lanes of the time line, from above. */
export const LANES: { kind: Kind; label: string; sign: string }[] = [
  { kind: "bad", label: "bad", sign: "✕" },
  { kind: "good", label: "good", sign: "✓" },
  { kind: "old", label: "old", sign: "○" },
  { kind: "unlock", label: "unlock", sign: "↑" },
];

/** Events of one kind that lie too close to be told apart: their numbers in the story. */
export interface Cluster {
  kind: Kind;
  events: number[];
  start: number;
  end: number;
}

/**
 * The events of each lane, those closer than `gap` seconds to the one before taken together. Those that
 * are chosen stay by themselves, so that what is dragged is not taken into what it passes.
 */
export function clustersOf(events: EventAt[], gap: number, chosen: number[] = []): Cluster[] {
  const open = new Map<string, Cluster>();
  const found: Cluster[] = [];
  const held = new Set(chosen);
  const inTime = events.map((_, n) => n).sort((a, b) => at(events, a) - at(events, b));
  for (const number of inTime) {
    const { at: moment, event: kind } = events[number] as EventAt;
    const apart = held.has(number);
    const last = open.get(`${kind} ${apart}`);
    if (last && (apart || moment - last.end < gap)) {
      last.events.push(number);
      last.end = moment;
    } else {
      const cluster = { kind, events: [number], start: moment, end: moment };
      open.set(`${kind} ${apart}`, cluster);
      found.push(cluster);
    }
  }
  return found;
}

const at = (events: EventAt[], number: number) => events[number]?.at ?? 0;

/** The same events, some of them so many seconds later; none before the beginning. */
export function moved(events: EventAt[], which: number[], by: number): EventAt[] {
  const first = Math.min(...which.map((n) => at(events, n)));
  const step = Math.max(by, -first);
  const chosen = new Set(which);
  return events.map((event, n) => (chosen.has(n) ? { ...event, at: event.at + step } : event));
}

export const without = (events: EventAt[], which: number[]): EventAt[] =>
  events.filter((_, n) => !which.includes(n));

export interface View {
  start: number;
  end: number;
}

const SHORTEST = 4;

/** What of the story is in view after coming closer (`by` above 1) or going away, about its middle. */
export function zoomed(view: View, by: number, whole: View): View {
  const span = Math.max(SHORTEST, (view.end - view.start) / by);
  if (span >= whole.end - whole.start) return whole;
  return within(
    { start: (view.start + view.end - span) / 2, end: (view.start + view.end + span) / 2 },
    whole,
  );
}

/** What is in view after going on by a part of it. */
export function panned(view: View, part: number, whole: View): View {
  const by = (view.end - view.start) * part;
  return within({ start: view.start + by, end: view.end + by }, whole);
}

function within(view: View, whole: View): View {
  const by = Math.max(whole.start - view.start, 0) + Math.min(whole.end - view.end, 0);
  return { start: view.start + by, end: view.end + by };
}

/** All that happens, and how long it has its effects. */
export function wholeOf(events: EventAt[], columns: Schemas["DrillColumn"][]): View {
  const moments = [
    ...events.map((event) => event.at),
    ...columns.flatMap((column) => [
      ...column.locks.map((lock) => lock.end ?? 0),
      ...column.steps.map((step) => step.counts_until ?? 0),
    ]),
  ];
  const last = moments.reduce((most, at) => Math.max(most, at), 60);
  return { start: 0, end: last * 1.06 };
}

/** How far an arrow key moves an event: a tenth of the distance between two ticks. */
export const nudge = (view: View) => Math.max(1, stepFor(view.end - view.start, 10) / 10);

/** Stretches of time that touch each other as one. */
export function joined(stretches: View[]): View[] {
  const found: View[] = [];
  for (const stretch of stretches) {
    const last = found.at(-1);
    if (last && stretch.start <= last.end) last.end = Math.max(last.end, stretch.end);
    else found.push({ ...stretch });
  }
  return found;
}
