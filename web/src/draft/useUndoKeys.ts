import { useEffect } from "react";
import { useDraft, useDraftStep } from "../api/drafts";
import { draftOf } from "./place";

const TYPING = "input, textarea, select, [contenteditable=true]";

/** Ctrl+Z takes back the last change of the draft that is shown, Ctrl+Shift+Z or Ctrl+Y brings it again. */
export function useUndoKeys(place: string) {
  const draft = useDraft(place);
  const undo = useDraftStep(place, "undo");
  const redo = useDraftStep(place, "redo");
  useEffect(() => {
    if (draftOf(place) === null) return;
    const onKey = (event: KeyboardEvent) => {
      const key = event.key.toLowerCase();
      if (!(event.ctrlKey || event.metaKey) || (key !== "z" && key !== "y")) return;
      if (event.target instanceof Element && event.target.closest(TYPING)) return;
      event.preventDefault();
      const again = key === "y" || event.shiftKey;
      const now = draft.data;
      if (!now || undo.isPending || redo.isPending || !(again ? now.can_redo : now.can_undo)) return;
      (again ? redo : undo).mutate(now.version);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}
