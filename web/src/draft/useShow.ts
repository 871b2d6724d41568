import { useCallback } from "react";
import { useNavigate } from "react-router";
import { at, draftOf, rememberDraft } from "./place";

/**
 * A way to the same screen in another place of the domain; with `anew` to how it is at first, or to
 * one of its views.
 */
export function useShow(place: string) {
  const navigate = useNavigate();
  return useCallback(
    (next: string, anew = false, view = "") => {
      const draft = draftOf(next);
      rememberDraft(next);
      if (next === place) return;
      // Where one is by now: an answer may come after one has gone on to another screen.
      const { pathname, search } = window.location;
      const rest = pathname.split("/").slice(2).join("/");
      void navigate(
        `/${at(next)}/${rest}${anew ? view && `?${new URLSearchParams({ view })}` : search}`,
        { replace: draftOf(place) === null && draft !== null },
      );
    },
    [navigate, place],
  );
}
