import { useState, useSyncExternalStore } from "react";

interface Reading {
  set: (sentence: string) => void;
  get: () => string;
  subscribe: (listener: () => void) => () => void;
}

/**
 * The sentence about what the pointer or the focus is on. Kept outside the section's state: a hover
 * must not draw thousands of cells anew.
 */
export function useReading(): Reading {
  const [reading] = useState(() => {
    let sentence = "";
    const listeners = new Set<() => void>();
    return {
      set: (next: string) => {
        sentence = next;
        listeners.forEach((listener) => listener());
      },
      get: () => sentence,
      subscribe: (listener: () => void) => {
        listeners.add(listener);
        return () => listeners.delete(listener);
      },
    };
  });
  return reading;
}

const RULE =
  "The first solid layer under a population is the one it gets. Drag a layer, or press Shift ↑ ↓ on it, to weigh another precedence.";

export function ReadingLine({ reading }: { reading: Reading }) {
  const sentence = useSyncExternalStore(reading.subscribe, reading.get);
  return (
    <p className="unprinted truncate pt-1 text-soft" title={sentence || RULE}>
      {sentence || RULE}
    </p>
  );
}
