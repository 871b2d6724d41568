// Typed work that is not saved yet, by the place where the work was typed and what the work is about.
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

export interface UnsavedEntry extends Work {
  value: unknown;
}

type Entries = ReadonlyMap<string, UnsavedEntry>;

const keyOf = (place: string, about: string) => `${place} ${about}`;

/**
 * The unsaved work of one user: kept in the storage of the tab, so that the work outlives other
 * screens, a reload and a lost session.
 */
export class Unsaved {
  private owner = "";
  private entries: Entries = new Map();
  private listed: readonly UnsavedEntry[] = [];
  private readonly listeners = new Set<() => void>();

  constructor(private readonly storage: () => Pick<Storage, "getItem" | "setItem">) {}

  /** Show and keep the work of this user from now on. */
  keepFor(name: string) {
    if (name === this.owner) return;
    this.owner = name;
    this.become(this.stored());
  }

  /** Everything that is typed and not saved: the same array until something changes. */
  readonly list = () => this.listed;

  /** Call `listener` at each change; returns how to stop. */
  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  valueOf<T>(place: string, about: string): T | undefined {
    return this.entries.get(keyOf(place, about))?.value as T | undefined;
  }

  put(entry: UnsavedEntry) {
    this.change((map) => map.set(keyOf(entry.place, entry.about), entry));
  }

  forget(place: string, about: string) {
    const key = keyOf(place, about);
    if (this.entries.has(key)) this.change((map) => map.delete(key));
  }

  /** Another value for work that is still unsaved, made of the present value. */
  alter<T>(place: string, about: string, make: (value: T) => T) {
    const entry = this.entries.get(keyOf(place, about));
    if (entry) this.put({ ...entry, value: make(entry.value as T) });
  }

  /** Carry work about whatever is wanted from one place to another. */
  carry(wanted: (about: string) => boolean, from: string, to: string) {
    if (from === to) return;
    const found = [...this.entries].filter(([, one]) => one.place === from && wanted(one.about));
    if (found.length === 0) return;
    this.change((map) => {
      for (const [key, entry] of found) {
        map.delete(key);
        // The work that is carried stays where both places hold work about the same thing.
        map.set(keyOf(to, entry.about), {
          ...entry,
          place: to,
          to: entry.to.replace(`/${at(from)}/`, `/${at(to)}/`),
        });
      }
    });
  }

  /**
   * What was sent is saved, in the place `to`. True if that is all; what was typed on meanwhile is
   * still to be saved, and is carried along.
   */
  settle({ place, about }: Work, sent: unknown, to: string): boolean {
    const entry = this.entries.get(keyOf(place, about));
    if (entry === undefined || entry.value === sent) {
      this.forget(place, about);
      return true;
    }
    this.carry((what) => what === about, place, to);
    return false;
  }

  private change(edit: (map: Map<string, UnsavedEntry>) => void) {
    const next = new Map(this.entries);
    edit(next);
    this.become(next);
    if (!this.owner) return;
    try {
      this.storage().setItem(this.key(), JSON.stringify([...next]));
    } catch {
      // A full storage: the work is still here until the page is left.
    }
  }

  private stored(): Entries {
    try {
      return new Map(
        JSON.parse(this.storage().getItem(this.key()) ?? "[]") as [string, UnsavedEntry][],
      );
    } catch {
      return new Map();
    }
  }

  private key() {
    return `unsaved:${this.owner}`;
  }

  private become(next: Entries) {
    this.entries = next;
    this.listed = [...next.values()];
    for (const listener of this.listeners) listener();
  }
}
