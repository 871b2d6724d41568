import { useEffect, useEffectEvent, useRef } from "react";

/**
 * Does something now, or as soon as what is under way has ended: Enter is not lost, and acts on what
 * is typed and shown by then.
 */
export function useWhenFree(busy: boolean, act: () => void) {
  const wanted = useRef(false);
  const acting = useEffectEvent(act);
  useEffect(() => {
    if (busy || !wanted.current) return;
    wanted.current = false;
    acting();
  }, [busy]);
  return () => {
    if (busy) wanted.current = true;
    else act();
  };
}
