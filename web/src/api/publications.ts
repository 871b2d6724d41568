// Drafts on their way into a directory: looked at beforehand, followed, gone on with.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { domainOf, draftOf } from "../draft/place";
import { answer, server, type Schemas } from "./client";
import { useJobEvents } from "./jobs";

export type Publication = Schemas["PublicationInfo"];

const keyOf = (place: string) => ["publication", domainOf(place)];
const at = (domain: string) => ({ params: { path: { domain } } });

/** What publishing the draft that is shown would write, as the directory is when it is asked. */
export const usePreview = (place: string, version: number, wanted: boolean) =>
  useQuery({
    queryKey: ["domain", place, "preview", version],
    queryFn: ({ signal }) =>
      answer(server.GET("/api/domains/{domain}/draft/preview", { ...at(place), signal })),
    enabled: wanted && draftOf(place) !== null,
    // Somebody may have changed the directory since.
    staleTime: 0,
    gcTime: 0,
  });

export const templateFile = (place: string, gpo: string) =>
  `/api/domains/${encodeURIComponent(place)}/draft/template?gpo=${encodeURIComponent(gpo)}`;

/** The draft that is being written into the domain's directory, or has stopped on the way. */
export function usePublication(place: string) {
  const client = useQueryClient();
  const found = useQuery({
    queryKey: keyOf(place),
    queryFn: () =>
      answer(server.GET("/api/domains/{domain}/publication", at(domainOf(place)))).then(
        (publication) => publication ?? null,
      ),
    enabled: domainOf(place) !== "-",
  });
  useJobEvents(found.data === null ? null : found.data?.job, (job, ended) => {
    client.setQueryData<Publication | null>(keyOf(place), (held) => held && { ...held, job });
    void client.invalidateQueries(ended ? undefined : { queryKey: keyOf(place) });
  });
  return found;
}

/** Finish what has stopped on the way, or take it back. */
export function useGoOn(place: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (back: boolean) =>
      answer(
        server.POST("/api/domains/{domain}/publication", {
          ...at(domainOf(place)),
          body: { back },
        }),
      ),
    onSettled: () => client.invalidateQueries({ queryKey: keyOf(place) }),
  });
}

/** Stop it behind the step that is under way. */
export function useStopPublication(place: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (job: string) =>
      answer(server.POST("/api/jobs/{job}/cancel", { params: { path: { job } } })),
    onSettled: () => client.invalidateQueries({ queryKey: keyOf(place) }),
  });
}

/** Close a publication that can go neither way, and say why. */
export function useClosePublication(place: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (reason: string) =>
      answer(
        server.POST("/api/domains/{domain}/publication/close", {
          ...at(domainOf(place)),
          body: { reason },
        }),
      ),
    onSettled: () => client.invalidateQueries(),
  });
}
