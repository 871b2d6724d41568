import { useEffect, useRef } from "react";
import { singleKeysOn } from "../shared/shortcuts";

const TYPING = "input, textarea, select, [contenteditable=true]";

/** Single-key shortcuts, silent while somebody types or a modifier is held. */
export function useKeys(keys: Record<string, () => void>) {
  const latest = useRef(keys);
  useEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return;
      if (event.target instanceof Element && event.target.closest(TYPING)) return;
      if (event.key.length === 1 && !singleKeysOn()) return;
      const act = latest.current[event.key.length === 1 ? event.key.toLowerCase() : event.key];
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
