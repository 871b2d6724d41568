// Drafts and history, as hooks.
import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { domainOf, draftOf, placeOf } from "../draft/place";
import { useShow } from "../draft/useShow";
import { moveKept } from "../shared/kept";
import { answer, server, type Schemas } from "./client";
import { inTurn, latest } from "./moves";
import { useDraftWrite } from "./writing";

type Detail = Schemas["DraftDetail"];

const at = (domain: string) => ({ path: { domain } });

/** The open drafts of a domain, whichever place of it is shown. */
export const useDrafts = (place: string) =>
  useQuery({
    queryKey: ["drafts", domainOf(place)],
    queryFn: () =>
      answer(server.GET("/api/domains/{domain}/drafts", { params: at(domainOf(place)) })),
    enabled: domainOf(place) !== "-",
  });

const draftAt = (place: string) =>
  queryOptions({
    queryKey: ["domain", place, "draft"],
    queryFn: () => answer(server.GET("/api/domains/{domain}/draft", { params: at(place) })),
  });

export const useDraft = (place: string) =>
  useQuery({ ...draftAt(place), enabled: draftOf(place) !== null });

/** The draft as one's own writes leave it, also those that are on their way. */
export function useNewestDraft(place: string) {
  const client = useQueryClient();
  return async () => {
    await inTurn(domainOf(place), () => Promise.resolve());
    return client.fetchQuery({ ...draftAt(place), staleTime: Infinity });
  };
}

export const useImpact = (place: string) =>
  useQuery({
    queryKey: ["domain", place, "impact"],
    queryFn: ({ signal }) =>
      answer(server.GET("/api/domains/{domain}/draft/impact", { params: at(place), signal })),
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

/** Approves the draft as the approver has read it: `text` names its sentences and objects. */
export const useApproveDraft = (place: string) =>
  useDraftAction(place, (body: Schemas["DraftApproval"]) =>
    answer(server.POST("/api/domains/{domain}/draft/approve", { params: at(place), body })),
  );

export const useDraftStep = (place: string, step: "undo" | "redo") =>
  useDraftAction(place, (body: Versioned) =>
    answer(server.POST(`/api/domains/{domain}/draft/${step}`, { params: at(place), body })),
  );

export const useDropOperation = (place: string) =>
  useDraftAction(place, ({ number, version }: Versioned & { number: number }) =>
    answer(
      server.DELETE("/api/domains/{domain}/draft/operations/{number}", {
        params: { path: { domain: place, number }, query: { version } },
      }),
    ),
  );

export const useKeepOperation = (place: string) =>
  useDraftAction(place, ({ number, version }: Versioned & { number: number }) =>
    answer(
      server.POST("/api/domains/{domain}/draft/operations/{number}/keep", {
        params: { path: { domain: place, number } },
        body: { version },
      }),
    ),
  );

export const useDescribeDraft = (place: string) =>
  useDraftAction(place, (body: Schemas["DraftEdit"]) =>
    answer(server.PATCH("/api/domains/{domain}/draft", { params: at(place), body })),
  );

/**
 * Ends the draft that is shown and goes back to live. What was typed in it and not saved goes on
 * there.
 */
function useDraftEnd<R>(place: string, view: string, end: (argument: Versioned) => Promise<R>) {
  const client = useQueryClient();
  const show = useShow(place);
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
  useDraftEnd(place, "history", (body) =>
    answer(server.POST("/api/domains/{domain}/draft/publish", { params: at(place), body })),
  );

export const useCloseDraft = (place: string) =>
  useDraftEnd(place, "drafts", (body) =>
    answer(server.POST("/api/domains/{domain}/draft/close", { params: at(place), body })),
  );

export const useDropDraft = (place: string) =>
  useDraftEnd(place, "drafts", ({ version }) =>
    answer(
      server.DELETE("/api/domains/{domain}/draft", {
        params: { ...at(place), query: { version } },
      }),
    ),
  );

export function useOpenDraft(place: string) {
  const client = useQueryClient();
  const show = useShow(place);
  return useMutation({
    mutationFn: (title: string) =>
      answer(
        server.POST("/api/domains/{domain}/drafts", {
          params: at(domainOf(place)),
          body: { title },
        }),
      ),
    onSuccess: async (made) => {
      await client.invalidateQueries({ queryKey: ["drafts"] });
      show(placeOf(place, made.id), true);
    },
  });
}

export const useHistory = (place: string) =>
  useQuery({
    queryKey: ["domain", domainOf(place), "history"],
    queryFn: () =>
      answer(server.GET("/api/domains/{domain}/history", { params: at(domainOf(place)) })),
  });

export const useComparison = (place: string, before: number | null, after: number | null) =>
  useQuery({
    queryKey: ["domain", domainOf(place), "compare", before, after],
    queryFn: () =>
      answer(
        server.GET("/api/domains/{domain}/history/compare", {
          params: { ...at(domainOf(place)), query: { before: before ?? 0, after: after ?? 0 } },
        }),
      ),
    enabled: before !== null && after !== null && before !== after,
  });

export function useTakeBack(place: string) {
  const client = useQueryClient();
  const show = useShow(place);
  return useMutation({
    mutationFn: (point: number) =>
      answer(
        server.POST("/api/domains/{domain}/history/{point}/undo", {
          params: { path: { domain: domainOf(place), point } },
        }),
      ),
    onSuccess: async (made) => {
      await client.invalidateQueries({ queryKey: ["drafts"] });
      show(placeOf(place, made.id), true);
    },
  });
}

export const changesFile = (place: string) =>
  `/api/domains/${encodeURIComponent(place)}/draft/changes.ldif`;

export const useRenumber = (domain: string) =>
  useDraftWrite<null, Detail>(domain, (place) =>
    answer(server.POST("/api/domains/{domain}/draft/renumber", { params: at(place) })),
  );

export const useWeighMembership = (domain: string) =>
  useDraftWrite(domain, (place, body: Schemas["WhatIfMembership"]) =>
    answer(server.POST("/api/domains/{domain}/draft/memberships", { params: at(place), body })),
  );

export const useWeighFlag = (domain: string) =>
  useDraftWrite(domain, (place, body: Schemas["WhatIfFlag"]) =>
    answer(server.POST("/api/domains/{domain}/draft/flags", { params: at(place), body })),
  );
