// Typed work that is not saved yet, for components: kept in this tab, for the user who typed it,
// until it is saved or discarded. Never for candidate passwords.
import { useState, useSyncExternalStore } from "react";
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
 * `start` otherwise. Without a `work` it lives as long as the component. The last function forgets
 * it, or only what was sent, of which something may be left: what was typed on meanwhile stays.
 */
export function useKept<T>(
  work: Work | null,
  start: T,
  blank: (value: T) => boolean,
): [T, (next: T) => void, (sent?: T, left?: T) => void] {
  const [own, setOwn] = useState<{ value: T } | null>(null);
  const kept = useSyncExternalStore(unsaved.subscribe, () =>
    work ? keptValue<T>(work.place, work.about) : undefined,
  );
  const set = (next: T) => {
    if (!work) setOwn({ value: next });
    else if (blank(next)) unsaved.forget(work.place, work.about);
    else unsaved.put({ ...work, value: next });
  };
  const forget = (sent?: T, left?: T) => {
    const isSent = (now: T | undefined) => sent === undefined || now === sent;
    if (!work) {
      const next = left === undefined ? null : { value: left };
      setOwn((now) => (isSent(now?.value) ? next : now));
    } else if (isSent(keptValue(work.place, work.about))) {
      if (left === undefined) unsaved.forget(work.place, work.about);
      else set(left);
    }
  };
  return [kept ?? own?.value ?? start, set, forget];
}
