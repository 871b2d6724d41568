// The bench: verdicts, suggestions, boundaries, trials and cards. Candidates travel in request
// bodies and lie in no cache.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, type Schemas } from "./client";

const base = (place: string) => `/api/domains/${encodeURIComponent(place)}`;

export const tryCandidate = (place: string, body: Schemas["Attempt"], signal: AbortSignal) =>
  call<Schemas["AttemptAnswer"]>("POST", `${base(place)}/verdicts`, body, signal);

export const suggest = (place: string, who: Schemas["SuggestionAsked"]) =>
  call<Schemas["SuggestionInfo"][]>("POST", `${base(place)}/suggestions`, who);

export const askBoundaries = (place: string, who: Schemas["BoundariesAsked"]) =>
  call<Schemas["BoundariesAnswer"]>("POST", `${base(place)}/boundaries`, who);

export const useCard = (place: string, who: { account?: string; policy?: string }) =>
  useQuery({
    queryKey: ["domain", place, "card", who],
    queryFn: () =>
      call<Schemas["CardAnswer"]>("GET", `${base(place)}/card?${new URLSearchParams(who)}`),
  });

export const useTrials = (place: string) =>
  useQuery({
    queryKey: ["domain", place, "trials"],
    queryFn: () => call<Schemas["TrialsAnswer"]>("GET", `${base(place)}/trials`),
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
    call<Schemas["TrialInfo"]>("POST", `${base(place)}/trials`, body),
  );

export const useDropTrial = (place: string) =>
  useTrialWrite((id: number) => call<null>("DELETE", `${base(place)}/trials/${id}`));
