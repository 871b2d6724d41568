// A session that is over: who was signed in is asked to sign in again, in place, and what was under way goes on after it.
import { useSyncExternalStore } from "react";

let over = false;
let waiting: ((again: boolean) => void)[] = [];
const listeners = new Set<() => void>();
const channel = new BroadcastChannel("hornfels-session");

function become(next: boolean) {
  over = next;
  for (const listener of listeners) listener();
}

/** Waits until somebody is signed in again; false if it is somebody else or nobody wants to. */
export function signedInAgain(signal?: AbortSignal): Promise<boolean> {
  if (!over) become(true);
  return new Promise((resolve, reject) => {
    waiting.push(resolve);
    signal?.addEventListener("abort", () => reject(new DOMException("Given up.", "AbortError")));
  });
}

/** The session is there again, in this tab and then in all others. */
export function resume(tellOthers: boolean) {
  const held = waiting;
  waiting = [];
  become(false);
  for (const go of held) go(true);
  if (tellOthers) channel.postMessage("signed in");
}

/** Nobody goes on here: what waits is refused. */
export function giveUp() {
  const held = waiting;
  waiting = [];
  become(false);
  for (const go of held) go(false);
}

/** Another tab has signed in. */
export function onSignInElsewhere(act: () => void) {
  channel.addEventListener("message", act);
  return () => channel.removeEventListener("message", act);
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export const useSessionOver = () => useSyncExternalStore(subscribe, () => over);
