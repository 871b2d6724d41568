// A shorter maximum age that a draft brings, spread over weeks.
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { domainOf } from "../draft/place";
import { answer, server, type Schemas } from "./client";

export type Wave = Schemas["WaveInfo"];
export type SpreadInfo = Schemas["SpreadInfo"];

const SPREADS = "/api/domains/{domain}/spreads";
const keyOf = (place: string) => ["spreads", domainOf(place)];

/** How soon something new is seen that a worker does. */
const RENEWED = 10_000;

export const useSpreads = (place: string) =>
  useQuery({
    queryKey: keyOf(place),
    queryFn: ({ signal }) =>
      answer(server.GET(SPREADS, { params: { path: { domain: place } }, signal })),
    refetchInterval: RENEWED,
  });

/** Who would be told in which week; what is no number or day is refused by the server. */
export const useSpreadPlan = (place: string, weeks: string, begins: string) =>
  useQuery({
    queryKey: ["domain", place, "spread", weeks, begins],
    queryFn: ({ signal }) =>
      answer(
        server.GET(`${SPREADS}/plan`, {
          params: { path: { domain: place }, query: { begins } },
          querySerializer: () => String(new URLSearchParams({ weeks, begins })),
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

function useSpreadWrite<A, R>(place: string, write: (argument: A) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSettled: () => client.invalidateQueries({ queryKey: keyOf(place) }),
  });
}

export const useBeginSpread = (place: string) =>
  useSpreadWrite(place, (body: Schemas["SpreadBegun"]) =>
    answer(server.POST(SPREADS, { params: { path: { domain: place } }, body })),
  );

export const useStopSpread = (place: string) =>
  useSpreadWrite(place, ({ spread, reason }: { spread: number; reason: string }) =>
    answer(
      server.POST(`${SPREADS}/{spread}/stop`, {
        params: { path: { domain: place, spread } },
        body: { reason },
      }),
    ),
  );
