// The page of somebody under a policy. Nothing of it is shared with the rest: they are known by
// what they have in their directory, and see nothing else.
import { useMutation, useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useAsked } from "../shared/useAsked";
import { answer, ApiError, server, type Schemas } from "./client";

const KEY = ["you"];

/** Passwords are kept by nothing that remembers what was asked. */
const unkept = { gcTime: 0 };

const isOver = (error: Error | null) => error instanceof ApiError && error.status === 401;

/** Whoever is known no more: the page says so. */
function noticeOver(client: QueryClient, error: Error | null) {
  if (isOver(error)) void client.invalidateQueries({ queryKey: KEY });
}

export const useYou = () =>
  useQuery({
    queryKey: KEY,
    queryFn: ({ signal }) => answer(server.GET("/api/you", { signal })),
    retry: false,
  });

export function useComeIn() {
  const client = useQueryClient();
  return useMutation({
    ...unkept,
    mutationFn: (body: Schemas["OwnSignIn"]) => answer(server.POST("/api/you/session", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
  });
}

export function useGoOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => answer(server.DELETE("/api/you/session")),
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
  });
}

export function useOwnChange() {
  const client = useQueryClient();
  return useMutation({
    ...unkept,
    mutationFn: (body: Schemas["OwnChange"]) => answer(server.POST("/api/you/password", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
    onError: (error) => noticeOver(client, error),
  });
}

export function useOwnSuggestions() {
  const client = useQueryClient();
  return useMutation({
    ...unkept,
    mutationFn: () => answer(server.POST("/api/you/suggestions")),
    onError: (error) => noticeOver(client, error),
  });
}

const ask = (question: string, signal: AbortSignal) =>
  answer(
    server.POST("/api/you/verdicts", { body: JSON.parse(question) as Schemas["OwnTry"], signal }),
  );

/** What the rules say to what is being typed. */
export function useOwnVerdict(candidate: string, present: string) {
  const client = useQueryClient();
  const asked = useAsked(candidate === "" ? null : JSON.stringify({ candidate, present }), ask);
  useEffect(() => noticeOver(client, asked.error), [client, asked.error]);
  return asked;
}
