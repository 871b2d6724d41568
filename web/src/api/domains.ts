// Domains as a whole: which there are, their strata, and what is found in them by name.
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";
import { domainOf } from "../draft/place";
import { useMe, type Right } from "./people";
import { useDomainWrite } from "./writing";

export const useDomains = () =>
  useQuery({ queryKey: ["domains"], queryFn: () => answer(server.GET("/api/domains")) });

/**
 * What one may do in the domain of a place. While that is not known it is what one may do anywhere:
 * hardly anybody sees something go or come then.
 */
export function useMay(place: string) {
  const domains = useDomains().data;
  const anywhere = useMe().data?.rights ?? [];
  const here = domains?.find((domain) => domain.dns_name === domainOf(place));
  const held = domains ? (here?.rights ?? []) : anywhere;
  return (right: Right) => held.includes(right);
}

/** `show` names populations, by key, to be listed even where they are small. */
export const useStrata = (domain: string, show = "", enabled = true) =>
  useQuery({
    queryKey: ["domain", domain, "strata", show],
    queryFn: () =>
      answer(
        server.GET("/api/domains/{domain}/strata", {
          params: { path: { domain }, query: show ? { show } : {} },
        }),
      ),
    placeholderData: keepPreviousData,
    enabled,
  });

export type Kind = "account" | "group" | "policy";

export const useSearch = (domain: string, q: string, kinds: Kind[] = []) =>
  useQuery({
    queryKey: ["domain", domain, "search", q, kinds],
    queryFn: ({ signal }) =>
      answer(
        server.GET("/api/domains/{domain}/search", {
          params: { path: { domain }, query: { q, kind: kinds } },
          signal,
        }),
      ),
    enabled: q.trim() !== "",
    placeholderData: keepPreviousData,
  });

export const useEditDomain = (domain: string) =>
  useDomainWrite(domain, (body: Schemas["DomainEdit"]) =>
    answer(server.PATCH("/api/domains/{domain}", { params: { path: { domain } }, body })),
  );

/** Take a domain out of Hornfels. */
export function useRemoveDomain() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ domain, ...query }: { domain: string; version: number; reason: string }) =>
      answer(
        server.DELETE("/api/domains/{domain}", {
          params: { path: { domain }, query },
        }),
      ),
    onSettled: () => client.invalidateQueries(),
  });
}
