// Where one is: a domain as it is, or as a draft would make it. The place stands in the address, so
// that it can be linked to.
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

const lastOf = (user: string) => `domain of ${user}`;

/** The domain that a user looked at last in this browser; empty if none. */
export const lastDomain = (user: string) => localStorage.getItem(lastOf(user)) ?? "";

/** What `lastDomain` gives from now on. */
export const rememberDomain = (user: string, place: string) =>
  localStorage.setItem(lastOf(user), domainOf(place));

const memory = (domain: string) => `draft:${domainOf(domain)}`;

/** The draft of this domain that was shown last in this tab. */
export function lastDraft(domain: string): number | null {
  return Number(sessionStorage.getItem(memory(domain))) || null;
}

/** What `lastDraft` gives from now on, if a draft is shown at this place. */
export function rememberDraft(place: string) {
  const draft = draftOf(place);
  if (draft !== null) sessionStorage.setItem(memory(place), String(draft));
}
