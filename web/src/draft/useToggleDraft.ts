import { useNavigate } from "react-router";
import { useDrafts } from "../api/drafts";
import { at, domainOf, draftOf, lastDraft, placeOf } from "./place";
import { useShow } from "./useShow";

/**
 * Between live and the draft shown last, or the one changed last. Without any draft it leads to
 * where one is opened.
 */
export function useToggleDraft(place: string) {
  const drafts = useDrafts(place);
  const navigate = useNavigate();
  const show = useShow(place);
  return () => {
    if (draftOf(place) !== null) {
      show(domainOf(place));
      return;
    }
    const open = drafts.data ?? [];
    const last = lastDraft(place);
    const next = open.find((d) => d.id === last) ?? open[0];
    if (next) show(placeOf(place, next.id));
    else void navigate(`/${at(place)}/changes`);
  };
}
