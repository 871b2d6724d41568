// The trail of what was done.
import { useInfiniteQuery, useMutation } from "@tanstack/react-query";
import { saveFile } from "../shared/saveFile";
import { answer, server } from "./client";

export type Asked = Partial<Record<"person" | "domain" | "what" | "words", string>>;

/** Entries, the latest first, page by page. */
export const useTrail = (asked: Asked) =>
  useInfiniteQuery({
    queryKey: ["trail", asked],
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam, signal }) =>
      answer(
        server.GET("/api/trail", {
          params: { query: { ...asked, ...(pageParam ? { before: pageParam } : {}) } },
          signal,
        }),
      ),
    getNextPageParam: (last) => (last.more ? last.entries.at(-1)?.id : undefined),
    placeholderData: (before) => before,
    gcTime: 0,
  });

/** The entries as a file, for which the password may be asked once more. */
export const useTrailFile = () =>
  useMutation({
    mutationFn: (asked: Asked) =>
      answer(server.GET("/api/trail.jsonl", { params: { query: asked }, parseAs: "text" })),
    onSuccess: (text) => saveFile(String(text), "application/x-ndjson", "trail.jsonl"),
  });
