// Drafts and history, as hooks.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { domainOf, draftOf, placeOf, useDraftPlace } from "../draft/place";
import { moveKept } from "../shared/kept";
import { call, type Schemas } from "./client";
import { inTurn, latest } from "./moves";

type Detail = Schemas["DraftDetail"];

const base = (place: string) => `/api/domains/${encodeURIComponent(place)}`;

/** The open drafts of a domain, whichever place of it is shown. */
export const useDrafts = (place: string) =>
  useQuery({
    queryKey: ["drafts", domainOf(place)],
    queryFn: () => call<Schemas["DraftInfo"][]>("GET", `${base(domainOf(place))}/drafts`),
    enabled: domainOf(place) !== "-",
  });

export const useDraft = (place: string) =>
  useQuery({
    queryKey: ["domain", place, "draft"],
    queryFn: () => call<Detail>("GET", `${base(place)}/draft`),
    enabled: draftOf(place) !== null,
  });

export const useImpact = (place: string) =>
  useQuery({
    queryKey: ["domain", place, "impact"],
    queryFn: ({ signal }) =>
      call<Schemas["ImpactInfo"]>("GET", `${base(place)}/draft/impact`, undefined, signal),
    enabled: draftOf(place) !== null,
  });

interface Versioned {
  version: number;
}

/**
 * One's own writes to a draft go out in turn, each for the version that was seen or what one's own
 * writes have made of it.
 */
const written = <A extends Versioned, R>(
  place: string,
  argument: A,
  write: (argument: A) => Promise<R>,
): Promise<R> =>
  inTurn(domainOf(place), () => write({ ...argument, version: latest(place, argument.version) }));

/** The draft, or live under it, has moved on: show both as they are. */
const useLookAgain = (place: string) => {
  const client = useQueryClient();
  return () => {
    for (const where of [place, domainOf(place)])
      void client.invalidateQueries({ queryKey: ["domain", where] });
    void client.invalidateQueries({ queryKey: ["drafts"] });
  };
};

/** What is done with the draft that is shown; everything read in its place is stale afterwards. */
function useDraftAction<A extends Versioned>(place: string, act: (argument: A) => Promise<Detail>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (argument: A) => written(place, argument, act),
    onSuccess: (detail) => {
      client.setQueryData(["domain", place, "draft"], detail);
      void client.invalidateQueries({ queryKey: ["drafts"] });
      void client.invalidateQueries({ queryKey: ["domain", place] });
    },
    onError: useLookAgain(place),
  });
}

export const useDraftStep = (place: string, step: "undo" | "redo" | "approve") =>
  useDraftAction(place, ({ version }: Versioned) =>
    call<Detail>("POST", `${base(place)}/draft/${step}`, { version }),
  );

export const useDropOperation = (place: string) =>
  useDraftAction(place, ({ operation, version }: Versioned & { operation: number }) =>
    call<Detail>("DELETE", `${base(place)}/draft/operations/${operation}?version=${version}`),
  );

export const useKeepOperation = (place: string) =>
  useDraftAction(place, ({ operation, version }: Versioned & { operation: number }) =>
    call<Detail>("POST", `${base(place)}/draft/operations/${operation}/keep`, { version }),
  );

export const useDescribeDraft = (place: string) =>
  useDraftAction(place, (body: Schemas["DraftEdit"]) =>
    call<Detail>("PATCH", `${base(place)}/draft`, body),
  );

/**
 * Ends the draft that is shown and goes back to live. What was typed in it and not saved goes on
 * there.
 */
function useDraftEnd(place: string, view: string, end: (argument: Versioned) => Promise<null>) {
  const client = useQueryClient();
  const { show } = useDraftPlace(place);
  return useMutation({
    mutationFn: (version: number) => written(place, { version }, end),
    onSuccess: async () => {
      moveKept(place, domainOf(place));
      show(domainOf(place), true, view);
      // The draft is gone: what was read in its place is not to be asked for again.
      await client.invalidateQueries({ predicate: (query) => query.queryKey[1] !== place });
    },
    onError: useLookAgain(place),
  });
}

export const usePublish = (place: string) =>
  useDraftEnd(place, "history", (body) => call<null>("POST", `${base(place)}/draft/publish`, body));

export const useCloseDraft = (place: string) =>
  useDraftEnd(place, "drafts", (body) => call<null>("POST", `${base(place)}/draft/close`, body));

export const useDropDraft = (place: string) =>
  useDraftEnd(place, "drafts", ({ version }) =>
    call<null>("DELETE", `${base(place)}/draft?version=${version}`),
  );

export function useOpenDraft(place: string) {
  const client = useQueryClient();
  const { show } = useDraftPlace(place);
  return useMutation({
    mutationFn: (title: string) =>
      call<Schemas["DraftInfo"]>("POST", `${base(domainOf(place))}/drafts`, { title }),
    onSuccess: async (made) => {
      await client.invalidateQueries({ queryKey: ["drafts"] });
      show(placeOf(place, made.id), true);
    },
  });
}

export const useHistory = (place: string) =>
  useQuery({
    queryKey: ["domain", domainOf(place), "history"],
    queryFn: () => call<Schemas["PointInfo"][]>("GET", `${base(domainOf(place))}/history`),
  });

export const useComparison = (place: string, before: number | null, after: number | null) =>
  useQuery({
    queryKey: ["domain", domainOf(place), "compare", before, after],
    queryFn: () =>
      call<Schemas["Comparison"]>(
        "GET",
        `${base(domainOf(place))}/history/compare?before=${before}&after=${after}`,
      ),
    enabled: before !== null && after !== null && before !== after,
  });

export function useTakeBack(place: string) {
  const client = useQueryClient();
  const { show } = useDraftPlace(place);
  return useMutation({
    mutationFn: (point: number) =>
      call<Schemas["DraftInfo"]>("POST", `${base(domainOf(place))}/history/${point}/undo`),
    onSuccess: async (made) => {
      await client.invalidateQueries({ queryKey: ["drafts"] });
      show(placeOf(place, made.id), true);
    },
  });
}

export const changesFile = (place: string) => `${base(place)}/draft/changes.ldif`;
