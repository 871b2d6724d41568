// The trail of what was done.
import { useInfiniteQuery } from "@tanstack/react-query";
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

/** The address of the entries as a file. */
export const trailFile = (asked: Asked) => `/api/trail.jsonl?${String(new URLSearchParams(asked))}`;
