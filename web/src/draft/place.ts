// Where one is: a domain as it is, or as a draft would make it. The place stands in the address, so
// that it can be linked to.
import { useCallback } from "react";
import { useNavigate } from "react-router";
import { call, type Schemas } from "../api/client";

const MARK = "~";
const MARKED = /^(.+)~(\d+)$/s;

export const domainOf = (place: string) => MARKED.exec(place)?.[1] ?? place;

export const draftOf = (place: string): number | null => {
  const draft = MARKED.exec(place)?.[2];
  return draft === undefined ? null : Number(draft);
};

/** A place as one part of an address, whatever the domain is called. */
export const at = (place: string) => encodeURIComponent(place);

export const placeOf = (domain: string, draft: number | null) =>
  draft === null ? domainOf(domain) : `${domainOf(domain)}${MARK}${draft}`;

const memory = (domain: string) => `draft:${domainOf(domain)}`;

/** The draft of this domain that was shown last in this tab. */
export function lastDraft(domain: string): number | null {
  return Number(sessionStorage.getItem(memory(domain))) || null;
}

export function useDraftPlace(place: string) {
  const navigate = useNavigate();

  /**
   * Go to the same screen in another place of the domain; with `anew` to how it is at first, or to
   * one of its views.
   */
  const show = useCallback(
    (next: string, anew = false, view = "") => {
      const draft = draftOf(next);
      if (draft !== null) sessionStorage.setItem(memory(next), String(draft));
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

  /** Where an edit goes: the draft that is shown, else the one shown last, else a new one. */
  const placeForWriting = useCallback(async () => {
    if (draftOf(place) !== null) return place;
    const path = `/api/domains/${encodeURIComponent(place)}/drafts`;
    const last = lastDraft(place);
    if (last !== null) {
      const open = await call<Schemas["DraftInfo"][]>("GET", path);
      if (open.some((d) => d.id === last)) return placeOf(place, last);
    }
    const made = await call<Schemas["DraftInfo"]>("POST", path, { title: "" });
    return placeOf(place, made.id);
  }, [place]);

  return { show, placeForWriting };
}
