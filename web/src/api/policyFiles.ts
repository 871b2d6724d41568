// Policies as files: planned against live, made into drafts.
import { useMutation, useQueryClient } from "@tanstack/react-query";
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

/** Makes a draft of what a file wants of live, and shows it. */
export function useTakeFile(domain: string) {
  const client = useQueryClient();
  const navigate = useNavigate();
  return useMutation({
    mutationFn: (file: File) =>
      answer(
        server.POST("/api/domains/{domain}/policy-file", {
          params: { path: { domain }, query: { title: `From ${file.name}`.slice(0, 100) } },
          ...asItIs(file),
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
