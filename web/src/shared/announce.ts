// What is said aloud to those who do not see it: one polite live region, in the frame, says the
// latest thing once.
import { useSyncExternalStore } from "react";

let said = { text: "", number: 0 };
let waiting = 0;
const listeners = new Set<() => void>();

/**
 * Say something soon; what is said again and again while somebody types is said once, when it is
 * settled.
 */
export function announce(text: string, settled = 0) {
  window.clearTimeout(waiting);
  waiting = window.setTimeout(() => {
    said = { text, number: said.number + 1 };
    for (const listener of listeners) listener();
  }, settled);
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export const useAnnounced = () => useSyncExternalStore(subscribe, () => said);
