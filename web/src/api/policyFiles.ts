// Policies as files: planned against live, made into drafts.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { at, placeOf, rememberDraft } from "../draft/place";
import { answer, asItIs, server } from "./client";

export const policyFile = (place: string) =>
  `/api/domains/${encodeURIComponent(place)}/policy-file`;

/** What a file would change of live, in words. */
export const usePlanFile = (domain: string) =>
  useMutation({
    mutationFn: (file: File) =>
      answer(
        server.POST("/api/domains/{domain}/policy-file/plan", {
          params: { path: { domain } },
          ...asItIs(file),
        }),
      ),
  });

/** The domain's file on the server's machine, held against live; it may change at any time. */
export const useWatchedFile = (domain: string) =>
  useQuery({
    queryKey: ["domain", domain, "watched file"],
    queryFn: ({ signal }) =>
      answer(
        server.GET("/api/domains/{domain}/policy-file/watched", {
          params: { path: { domain } },
          signal,
        }),
      ),
    refetchInterval: 60_000,
  });

export const upToDateFile = (domain: string) => `${policyFile(domain)}/watched/up-to-date`;

/** Makes a draft of what a file wants of live, without one of what the watched file wants. */
export function useTakeFile(domain: string) {
  const client = useQueryClient();
  const navigate = useNavigate();
  return useMutation({
    mutationFn: (file: File | null) =>
      answer(
        file
          ? server.POST("/api/domains/{domain}/policy-file", {
              params: { path: { domain }, query: { title: `From ${file.name}`.slice(0, 100) } },
              ...asItIs(file),
            })
          : server.POST("/api/domains/{domain}/policy-file/watched", {
              params: { path: { domain } },
            }),
      ),
    onSuccess: async ({ draft }) => {
      await client.invalidateQueries({ queryKey: ["drafts"] });
      await client.invalidateQueries({ predicate: (query) => query.queryKey[2] === "trials" });
      if (!draft) return;
      const place = placeOf(domain, draft.id);
      rememberDraft(place);
      void navigate(`/${at(place)}/changes`);
    },
  });
}
