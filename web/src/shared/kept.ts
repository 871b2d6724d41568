// Typed work that is not saved yet: kept in this tab, for the person who typed it, until it is
// saved or given up.
// It outlives other screens, a reload and a lost session. Never for candidate passwords.
import { useCallback, useSyncExternalStore } from "react";
import { at } from "../draft/place";

/**
 * Where typed work belongs: the place it was typed in, what it is about, its name for people, and
 * the address that shows it.
 */
export interface Work {
  place: string;
  about: string;
  label: string;
  to: string;
}

interface Entry extends Work {
  value: unknown;
}

let owner = "";
let entries: ReadonlyMap<string, Entry> = new Map();
let listed: readonly Entry[] = [];
const listeners = new Set<() => void>();

const keyOf = (place: string, about: string) => `${place} ${about}`;
const storage = () => `unsaved:${owner}`;

function become(next: ReadonlyMap<string, Entry>) {
  entries = next;
  listed = [...next.values()];
  for (const listener of listeners) listener();
}

function change(edit: (map: Map<string, Entry>) => void) {
  const next = new Map(entries);
  edit(next);
  become(next);
  if (!owner) return;
  try {
    sessionStorage.setItem(storage(), JSON.stringify([...next]));
  } catch {
    // A full storage: the work is still here until the page is left.
  }
}

/** Whose work is shown and kept from now on. */
export function keepFor(name: string) {
  if (name === owner) return;
  owner = name;
  try {
    become(new Map(JSON.parse(sessionStorage.getItem(storage()) ?? "[]") as [string, Entry][]));
  } catch {
    become(new Map());
  }
}

/** What was typed last stays, where both places hold something about the same thing. */
function carry(map: Map<string, Entry>, key: string, entry: Entry, to: string) {
  map.delete(key);
  map.set(keyOf(to, entry.about), {
    ...entry,
    place: to,
    to: entry.to.replace(`/${at(entry.place)}/`, `/${at(to)}/`),
  });
}

/** A draft is gone: what was typed in it goes on in live. */
export function moveKept(from: string, to: string) {
  change((map) => {
    for (const [key, entry] of [...map]) if (entry.place === from) carry(map, key, entry, to);
  });
}

/**
 * A write has taken one from one place to another: what is typed there about one thing goes along.
 */
export function carryKept(about: string, from: string, to: string) {
  const key = keyOf(from, about);
  const entry = entries.get(key);
  if (entry !== undefined && from !== to) change((map) => carry(map, key, entry, to));
}

/** The same for all that is typed about things that hang together. */
export function carryAllKept(about: (what: string) => boolean, from: string, to: string) {
  if (from === to) return;
  change((map) => {
    for (const [key, entry] of [...map])
      if (entry.place === from && about(entry.about)) carry(map, key, entry, to);
  });
}

/**
 * What was sent is saved, in the place `to`. True if that is all; what was typed on meanwhile is
 * still to be saved, and goes along.
 */
export function settleKept(work: Work, sent: unknown, to: string): boolean {
  const key = keyOf(work.place, work.about);
  const entry = entries.get(key);
  if (entry === undefined || entry.value === sent) {
    forgetKept(work.place, work.about);
    return true;
  }
  if (to !== work.place) change((map) => carry(map, key, entry, to));
  return false;
}

export function forgetKept(place: string, about: string) {
  if (entries.has(keyOf(place, about))) change((map) => map.delete(keyOf(place, about)));
}

/** Another value for what is still typed about something, made of the one that is there. */
export function changeKept<T>(place: string, about: string, make: (value: T) => T) {
  const entry = entries.get(keyOf(place, about));
  if (entry)
    change((map) => map.set(keyOf(place, about), { ...entry, value: make(entry.value as T) }));
}

export const keptValue = <T>(place: string, about: string): T | undefined =>
  entries.get(keyOf(place, about))?.value as T | undefined;

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

/** All that is typed and not saved. */
export const useUnsaved = () => useSyncExternalStore(subscribe, () => listed);

/**
 * State that is kept like this as long as it is worth keeping (`blank` says when it is not), and
 * `start` otherwise. The last function forgets it, or only what was sent: what was typed on
 * meanwhile stays.
 */
export function useKept<T>(
  work: Work,
  start: T,
  blank: (value: T) => boolean,
): [T, (next: T) => void, (sent?: T) => void] {
  const { place, about, label, to } = work;
  const value = useSyncExternalStore(subscribe, () => keptValue<T>(place, about));
  const set = useCallback(
    (next: T) => {
      if (blank(next)) forgetKept(place, about);
      else change((map) => map.set(keyOf(place, about), { place, about, label, to, value: next }));
    },
    [place, about, label, to, blank],
  );
  const forget = useCallback(
    (sent?: T) => {
      if (sent === undefined || keptValue(place, about) === sent) forgetKept(place, about);
    },
    [place, about],
  );
  return [value ?? start, set, forget];
}
