import { useDrafts } from "../api/drafts";
import { draftOf, lastDraft, placeOf } from "./place";

/**
 * Where an edit made here goes, as far as that is known: the draft that is shown, else the one shown
 * last if it is open still; live, where a new one will be opened. Undefined until it is known.
 */
export function useJoined(place: string): string | undefined {
  const last = draftOf(place) === null ? lastDraft(place) : null;
  const drafts = useDrafts(place);
  if (last === null) return place;
  if (!drafts.data) return drafts.error ? place : undefined;
  return drafts.data.some((draft) => draft.id === last) ? placeOf(place, last) : place;
}
