// What is wrong with the server as a whole: noticed by any request, asked after until it is over.
import { useSyncExternalStore } from "react";

export const UNREACHED = "Hornfels does not answer. Check that it still runs, then try again.";

const EVERY = 1500;

let wrong = "";
let asking = false;
let whenOver: () => void = () => undefined;
const listeners = new Set<() => void>();

function become(next: string) {
  if (next === wrong) return;
  wrong = next;
  for (const listener of listeners) listener();
}

async function look(): Promise<string> {
  try {
    const response = await fetch("/readyz");
    if (response.ok) return "";
    const body = (await response.json()) as { detail?: string };
    return body.detail ?? UNREACHED;
  } catch {
    return UNREACHED;
  }
}

/** A request has met with an outage. */
export function noticeTrouble() {
  if (asking) return;
  asking = true;
  const ask = async () => {
    const found = await look();
    become(found);
    if (found) window.setTimeout(() => void ask(), EVERY);
    else {
      asking = false;
      whenOver();
    }
  };
  void ask();
}

/** What to do when things work again. */
export function onTroubleOver(act: () => void) {
  whenOver = act;
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export const useTrouble = () => useSyncExternalStore(subscribe, () => wrong);
