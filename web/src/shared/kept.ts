// Typed work that is not saved yet: kept in this tab, for the person who typed it, until it is saved or given up.
// It outlives other screens, a reload and a lost session. Never for candidate passwords.
import { useCallback, useSyncExternalStore } from "react";

/** Where typed work belongs: the place it was typed in, what it is about, its name for people, and the address that shows it. */
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

function change(edit: (draft: Map<string, Entry>) => void) {
  const next = new Map(entries);
  edit(next);
  become(next);
  if (owner) sessionStorage.setItem(storage(), JSON.stringify([...next]));
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

/** A draft is gone: what was typed in it goes on in live. */
export function moveKept(from: string, to: string) {
  change((draft) => {
    for (const [key, entry] of [...draft]) {
      if (entry.place !== from) continue;
      draft.delete(key);
      const moved = { ...entry, place: to, to: entry.to.replace(`/${from}/`, `/${to}/`) };
      if (!draft.has(keyOf(to, entry.about))) draft.set(keyOf(to, entry.about), moved);
    }
  });
}

export function forgetKept(place: string, about: string) {
  if (entries.has(keyOf(place, about))) change((draft) => draft.delete(keyOf(place, about)));
}

export const keptValue = <T>(place: string, about: string): T | undefined => entries.get(keyOf(place, about))?.value as T | undefined;

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

/** All that is typed and not saved. */
export const useUnsaved = () => useSyncExternalStore(subscribe, () => listed);

/**
 * State that is kept like this as long as it is worth keeping (`blank` says when it is not), and `start` otherwise.
 */
export function useKept<T>(work: Work, start: T, blank: (value: T) => boolean): [T, (next: T) => void, () => void] {
  const { place, about, label, to } = work;
  const value = useSyncExternalStore(subscribe, () => keptValue<T>(place, about));
  const set = useCallback(
    (next: T) => {
      if (blank(next)) forgetKept(place, about);
      else change((draft) => draft.set(keyOf(place, about), { place, about, label, to, value: next }));
    },
    [place, about, label, to, blank],
  );
  const forget = useCallback(() => forgetKept(place, about), [place, about]);
  return [value ?? start, set, forget];
}
