import { useState } from "react";
import type { EventAt } from "./story";

/**
 * A story as the person has told it last: typed, placed on the time line, or chosen from those that
 * are ready. `lesson` names the ready one that it still is.
 */
export interface Told {
  how: "typed" | "placed" | "ready";
  text: string;
  events: EventAt[];
  ready: string;
}

const FIRST: Told = { how: "ready", text: "", events: [], ready: "device" };

/** Changes closer together than this, in ms, are taken back as one: who drags or types makes many. */
const AT_ONCE = 700;
const MOST_BACK = 50;

/**
 * The story on the bench of a domain, kept in this tab; and a way back through what it was before,
 * null where there is none.
 */
export function useStory(domain: string): [Told, (told: Told) => void, (() => void) | null] {
  const key = `story:${domain}`;
  const [held, setHeld] = useState<Held>(() => ({ key, told: read(key), past: [], at: 0 }));
  const now = held.key === key ? held : { key, told: read(key), past: [], at: 0 };
  const keep = (next: Held) => {
    setHeld(next);
    sessionStorage.setItem(key, JSON.stringify(next.told));
  };
  const tell = (told: Told) => {
    const at = performance.now();
    const goesOn = at - now.at < AT_ONCE && alike(told, now.told);
    const past = goesOn ? now.past : [...now.past, now.told].slice(-MOST_BACK);
    keep({ key, told, past, at });
  };
  const before = now.past.at(-1);
  const back = before
    ? () => keep({ key, told: before, past: now.past.slice(0, -1), at: 0 })
    : null;
  return [now.told, tell, back];
}

/** Whether a change is of the kind that many make one: typing on, or moving what is there. */
const alike = (told: Told, before: Told) =>
  told.how === before.how && (told.how === "typed" || told.events.length === before.events.length);

interface Held {
  key: string;
  told: Told;
  past: Told[];
  /** When it was changed last. */
  at: number;
}

function read(key: string): Told {
  try {
    const stored = JSON.parse(sessionStorage.getItem(key) ?? "{}") as Partial<Told>;
    return { ...FIRST, ...stored };
  } catch {
    return FIRST;
  }
}

/** What is asked of the server for it. */
export function questionOf(told: Told, accounts: string[], policies: string[]) {
  const who = { accounts, policies };
  if (told.how === "typed") return { ...who, story: told.text };
  if (told.how === "placed") return { ...who, events: told.events };
  return { ...who, ready: told.ready };
}
