import { useEffect, useRef } from "react";
import { useDraftStep, useNewestDraft } from "../api/drafts";
import { draftOf } from "./place";

const TYPING = "input, textarea, select, [contenteditable=true]";

/**
 * Ctrl+Z takes back the last change of the draft that is shown, Ctrl+Shift+Z or Ctrl+Y brings it
 * again.
 */
export function useUndoKeys(place: string) {
  const newest = useNewestDraft(place);
  const undo = useDraftStep(place, "undo");
  const redo = useDraftStep(place, "redo");
  // Keys pressed faster than the server answers wait for one another.
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  useEffect(() => {
    if (draftOf(place) === null) return;
    const onKey = (event: KeyboardEvent) => {
      const key = event.key.toLowerCase();
      if (!(event.ctrlKey || event.metaKey) || (key !== "z" && key !== "y")) return;
      if (event.target instanceof Element && event.target.closest(TYPING)) return;
      event.preventDefault();
      const again = key === "y" || event.shiftKey;
      queue.current = queue.current
        .then(async () => {
          const now = await newest();
          if (again ? now.can_redo : now.can_undo)
            await (again ? redo : undo).mutateAsync({ version: now.version });
        })
        .catch(() => undefined); // said where the draft is shown
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}
