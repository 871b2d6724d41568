// A session that is over: who was signed in is asked to sign in again, in place, and what was under
// way goes on after it.
import { useSyncExternalStore } from "react";

let over = false;
let waiting: ((again: boolean) => void)[] = [];
let focused: Element | null = null;
const listeners = new Set<() => void>();
const channel = new BroadcastChannel("hornfels-session");

function become(next: boolean) {
  over = next;
  for (const listener of listeners) listener();
}

/** Waits until somebody is signed in again; false if it is somebody else or nobody wants to. */
export function signedInAgain(signal?: AbortSignal): Promise<boolean> {
  if (!over) {
    focused = document.activeElement;
    become(true);
  }
  return new Promise((resolve, reject) => {
    waiting.push(resolve);
    signal?.addEventListener("abort", () => reject(new DOMException("Given up.", "AbortError")));
  });
}

/** What had the focus when the session was found to be over. */
export const whereOneWas = () =>
  focused instanceof HTMLElement && focused.isConnected ? focused : null;

/** What waits goes on, or is refused. */
function end(again: boolean) {
  const held = waiting;
  waiting = [];
  become(false);
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

export const useSessionOver = () => useSyncExternalStore(subscribe, () => over);
