import { useEffect, useRef } from "react";
import { useDraft, useDraftStep } from "../api/drafts";
import { draftOf } from "./place";

const TYPING = "input, textarea, select, [contenteditable=true]";

/**
 * Ctrl+Z takes back the last change of the draft that is shown, Ctrl+Shift+Z or Ctrl+Y brings it
 * again.
 */
export function useUndoKeys(place: string) {
  const draft = useDraft(place);
  const undo = useDraftStep(place, "undo");
  const redo = useDraftStep(place, "redo");
  // Keys pressed faster than the server answers wait for one another.
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const known = useRef(draft.data);
  useEffect(() => {
    known.current = draft.data;
  }, [draft.data]);
  useEffect(() => {
    if (draftOf(place) === null) return;
    const onKey = (event: KeyboardEvent) => {
      const key = event.key.toLowerCase();
      if (!(event.ctrlKey || event.metaKey) || (key !== "z" && key !== "y")) return;
      if (event.target instanceof Element && event.target.closest(TYPING)) return;
      event.preventDefault();
      const again = key === "y" || event.shiftKey;
      queue.current = queue.current.then(async () => {
        const now = known.current;
        if (!now || !(again ? now.can_redo : now.can_undo)) return;
        known.current = await (again ? redo : undo)
          .mutateAsync({ version: now.version })
          .catch(() => now);
      });
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}
