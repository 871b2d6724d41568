// Drafts and history, as hooks.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { domainOf, draftOf, placeOf, useDraftPlace } from "../draft/place";
import { call, type Schemas } from "./client";

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
    queryFn: ({ signal }) => call<Schemas["ImpactInfo"]>("GET", `${base(place)}/draft/impact`, undefined, signal),
    enabled: draftOf(place) !== null,
  });

/** What is done with the draft that is shown; everything read in its place is stale afterwards. */
function useDraftAction<A>(place: string, act: (argument: A) => Promise<Detail>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: act,
    onSuccess: (detail) => {
      client.setQueryData(["domain", place, "draft"], detail);
      void client.invalidateQueries({ queryKey: ["drafts"] });
      void client.invalidateQueries({ queryKey: ["domain", place] });
    },
    // The draft may have moved on: show it as it is.
    onError: () => void client.invalidateQueries({ queryKey: ["domain", place, "draft"] }),
  });
}

export const useDraftStep = (place: string, step: "undo" | "redo" | "approve") =>
  useDraftAction(place, (version: number) => call<Detail>("POST", `${base(place)}/draft/${step}`, { version }));

export const useDropOperation = (place: string) =>
  useDraftAction(place, ({ operation, version }: { operation: number; version: number }) =>
    call<Detail>("DELETE", `${base(place)}/draft/operations/${operation}?version=${version}`),
  );

export const useKeepOperation = (place: string) =>
  useDraftAction(place, ({ operation, version }: { operation: number; version: number }) =>
    call<Detail>("POST", `${base(place)}/draft/operations/${operation}/keep`, { version }),
  );

export const useDescribeDraft = (place: string) =>
  useDraftAction(place, (body: Schemas["DraftEdit"]) => call<Detail>("PATCH", `${base(place)}/draft`, body));

/** Ends the draft that is shown, by publishing or dropping it, and goes back to live. */
function useDraftEnd(place: string, end: (version: number) => Promise<null>) {
  const client = useQueryClient();
  const { show } = useDraftPlace(place);
  return useMutation({
    mutationFn: end,
    onSuccess: async () => {
      show(domainOf(place));
      // The draft is gone: what was read in its place is not to be asked for again.
      await client.invalidateQueries({ predicate: (query) => query.queryKey[1] !== place });
    },
  });
}

export const usePublish = (place: string) =>
  useDraftEnd(place, (version) => call<null>("POST", `${base(place)}/draft/publish`, { version }));

export const useDropDraft = (place: string) =>
  useDraftEnd(place, (version) => call<null>("DELETE", `${base(place)}/draft?version=${version}`));

export function useOpenDraft(place: string) {
  const client = useQueryClient();
  const { show } = useDraftPlace(place);
  return useMutation({
    mutationFn: (title: string) => call<Schemas["DraftInfo"]>("POST", `${base(domainOf(place))}/drafts`, { title }),
    onSuccess: async (made) => {
      await client.invalidateQueries({ queryKey: ["drafts"] });
      show(placeOf(place, made.id));
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
      call<Schemas["Comparison"]>("GET", `${base(domainOf(place))}/history/compare?before=${before}&after=${after}`),
    enabled: before !== null && after !== null && before !== after,
  });

export function useTakeBack(place: string) {
  const client = useQueryClient();
  const { show } = useDraftPlace(place);
  return useMutation({
    mutationFn: (point: number) => call<Schemas["DraftInfo"]>("POST", `${base(domainOf(place))}/history/${point}/undo`),
    onSuccess: async (made) => {
      await client.invalidateQueries({ queryKey: ["drafts"] });
      show(placeOf(place, made.id));
    },
  });
}

export const changesFile = (place: string) => `${base(place)}/draft/changes.ldif`;
