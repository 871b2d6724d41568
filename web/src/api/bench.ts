// The bench: verdicts, suggestions, boundaries, trials and cards. Candidates travel in request
// bodies and lie in no cache.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";

const at = (domain: string) => ({ path: { domain } });

export const tryCandidate = (place: string, body: Schemas["Attempt"], signal: AbortSignal) =>
  answer(server.POST("/api/domains/{domain}/verdicts", { params: at(place), body, signal }));

/** What is drawn at random, for whoever asks: a candidate in it outlives its request nowhere. */
const drawn = { gcTime: 0 };

export const useSuggestions = (place: string) =>
  useMutation({
    ...drawn,
    mutationFn: (body: Schemas["SuggestionAsked"]) =>
      answer(server.POST("/api/domains/{domain}/suggestions", { params: at(place), body })),
  });

export const useBoundaries = (place: string) =>
  useMutation({
    ...drawn,
    mutationFn: (body: Schemas["BoundariesAsked"]) =>
      answer(server.POST("/api/domains/{domain}/boundaries", { params: at(place), body })),
  });

/** The candidate goes to the directory, and lies in no list of what was asked. */
export const useRehearsal = (domain: string) =>
  useMutation({
    ...drawn,
    mutationFn: (body: Schemas["RehearsalAsked"]) =>
      answer(server.POST("/api/domains/{domain}/rehearsals", { params: at(domain), body })),
  });

export const useCard = (place: string, who: { account?: string; policy?: string }) =>
  useQuery({
    queryKey: ["domain", place, "card", who],
    queryFn: () =>
      answer(server.GET("/api/domains/{domain}/card", { params: { ...at(place), query: who } })),
  });

export const useTrials = (place: string) =>
  useQuery({
    queryKey: ["domain", place, "trials"],
    queryFn: () => answer(server.GET("/api/domains/{domain}/trials", { params: at(place) })),
    refetchInterval: (query) => (query.state.data?.running ? 600 : false),
  });

/** Trials belong to the domain: what is kept or dropped counts for live and for every draft. */
function useTrialWrite<A>(act: (argument: A) => Promise<unknown>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: act,
    // The candidate must not outlive its request in the list of mutations.
    gcTime: 0,
    onSuccess: () =>
      client.invalidateQueries({ predicate: (query) => query.queryKey[2] === "trials" }),
  });
}

export const useKeepTrial = (place: string) =>
  useTrialWrite((body: Schemas["TrialNew"]) =>
    answer(server.POST("/api/domains/{domain}/trials", { params: at(place), body })),
  );

export const useDropTrial = (place: string) =>
  useTrialWrite((trial: number) =>
    answer(
      server.DELETE("/api/domains/{domain}/trials/{trial}", {
        params: { path: { domain: place, trial } },
      }),
    ),
  );
