import { useEffect, useRef, useState } from "react";

/** Thirty times a second: who drags something asks all the time. */
const PAUSE = 34;

/** A value as it stands, taken up once in so many milliseconds at most. */
export function usePaced<T>(value: T, pause = PAUSE): T {
  const [paced, take] = useState(value);
  const latest = useRef(0);
  useEffect(() => {
    const wait = window.setTimeout(
      () => {
        latest.current = performance.now();
        take(value);
      },
      Math.max(0, pause - (performance.now() - latest.current)),
    );
    return () => window.clearTimeout(wait);
  }, [value, pause]);
  return paced;
}
