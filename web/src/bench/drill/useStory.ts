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

/** The story on the bench of a domain, kept in this tab. */
export function useStory(domain: string): [Told, (told: Told) => void] {
  const key = `story:${domain}`;
  const [held, setHeld] = useState<{ key: string; told: Told }>(() => ({ key, told: read(key) }));
  const told = held.key === key ? held.told : read(key);
  return [
    told,
    (next) => {
      setHeld({ key, told: next });
      sessionStorage.setItem(key, JSON.stringify(next));
    },
  ];
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
