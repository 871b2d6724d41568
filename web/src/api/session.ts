// A session that is over, or that has to be proven once more: who was signed in is asked in place,
// and what was under way goes on after it.
import { useSyncExternalStore } from "react";

/** What is asked for: signing in again, or the password once more. */
export type Wanted = "sign-in" | "password";

let wanted: Wanted | null = null;
let waiting: ((again: boolean) => void)[] = [];
let focused: Element | null = null;
const listeners = new Set<() => void>();
const channel = new BroadcastChannel("hornfels-session");

function become(next: Wanted | null) {
  wanted = next;
  for (const listener of listeners) listener();
}

/**
 * Waits until the person has signed in again, or given the password once more; false if it is
 * somebody else or nobody wants to.
 */
export function askedAgain(what: Wanted, signal?: AbortSignal): Promise<boolean> {
  if (!wanted) {
    focused = document.activeElement;
    become(what);
  }
  return new Promise((resolve, reject) => {
    waiting.push(resolve);
    signal?.addEventListener("abort", () => reject(new DOMException("Given up.", "AbortError")));
  });
}

/** What had the focus when this was asked. */
export const whereOneWas = () =>
  focused instanceof HTMLElement && focused.isConnected ? focused : null;

/** What waits goes on, or is refused. */
function end(again: boolean) {
  const held = waiting;
  waiting = [];
  become(null);
  for (const go of held) go(again);
}

/** The session is there again. */
export const resume = () => end(true);

/** Nobody goes on here. */
export const giveUp = () => end(false);

/** Tell the other tabs that somebody has signed in. */
export const announce = () => channel.postMessage("signed in");

/** Somebody has signed in in another tab. */
export function onSignInElsewhere(act: () => void) {
  channel.addEventListener("message", act);
  return () => channel.removeEventListener("message", act);
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export const useWanted = () => useSyncExternalStore(subscribe, () => wanted);
