// Whether single letters act as keys: whoever speaks to the computer, or types with a switch, turns
// them off.
import { useSyncExternalStore } from "react";

const KEY = "single-keys";
const listeners = new Set<() => void>();

export const singleKeysOn = () => localStorage.getItem(KEY) !== "off";

export function setSingleKeys(on: boolean) {
  localStorage.setItem(KEY, on ? "on" : "off");
  for (const listener of listeners) listener();
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export const useSingleKeys = () => useSyncExternalStore(subscribe, singleKeysOn);
