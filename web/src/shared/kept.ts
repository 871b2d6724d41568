// Typed work that is not saved yet, for components: kept in this tab, for the user who typed it,
// until it is saved or discarded. Never for candidate passwords.
import { useCallback, useSyncExternalStore } from "react";
import { Unsaved, type Work } from "./unsaved";

export type { Work } from "./unsaved";

const unsaved = new Unsaved(() => sessionStorage);

/** Whose work is shown and kept from now on. */
export const keepFor = (name: string) => unsaved.keepFor(name);

/** A draft is gone: what was typed in it goes on in live. */
export const moveKept = (from: string, to: string) => unsaved.carry(() => true, from, to);

/**
 * A write has taken one from one place to another: what is typed there about one thing goes along.
 */
export const carryKept = (about: string, from: string, to: string) =>
  unsaved.carry((what) => what === about, from, to);

/** The same for all that is typed about things that hang together. */
export const carryAllKept = (about: (what: string) => boolean, from: string, to: string) =>
  unsaved.carry(about, from, to);

/**
 * What was sent is saved, in the place `to`. True if that is all; what was typed on meanwhile is
 * still to be saved, and goes along.
 */
export const settleKept = (work: Work, sent: unknown, to: string) => unsaved.settle(work, sent, to);

/** Another value for what is still typed about something, made of the one that is there. */
export const changeKept = <T>(place: string, about: string, make: (value: T) => T) =>
  unsaved.alter(place, about, make);

export const keptValue = <T>(place: string, about: string): T | undefined =>
  unsaved.valueOf<T>(place, about);

/** All that is typed and not saved. */
export const useUnsaved = () => useSyncExternalStore(unsaved.subscribe, unsaved.list);

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
  const value = useSyncExternalStore(unsaved.subscribe, () => keptValue<T>(place, about));
  const set = useCallback(
    (next: T) => {
      if (blank(next)) unsaved.forget(place, about);
      else unsaved.put({ place, about, label, to, value: next });
    },
    [place, about, label, to, blank],
  );
  const forget = useCallback(
    (sent?: T) => {
      if (sent === undefined || keptValue(place, about) === sent) unsaved.forget(place, about);
    },
    [place, about],
  );
  return [value ?? start, set, forget];
}
