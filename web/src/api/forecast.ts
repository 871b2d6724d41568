// What guessing costs, and how a lockout trades guessers against people.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";
import { policyEdit } from "./policies";
import { bedrockEdit } from "./sources";
import { useDraftWrite } from "./writing";

/** What is assumed, as it stands in the address: a server refuses what is no number. */
export type Assumed = Record<string, string>;

export const useGuessing = (place: string, policy: string, assumed: Assumed) =>
  useQuery({
    queryKey: ["domain", place, "guessing", policy, assumed],
    queryFn: ({ signal }) =>
      answer(
        server.GET("/api/domains/{domain}/guessing", {
          params: { path: { domain: place }, query: { policy } as object },
          querySerializer: () => queryOf({ policy, ...assumed }),
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const useTradeoff = (place: string, policy: string, plane: string, assumed: Assumed) =>
  useQuery({
    queryKey: ["domain", place, "tradeoff", policy, plane, assumed],
    queryFn: ({ signal }) =>
      answer(
        server.GET("/api/domains/{domain}/tradeoff", {
          params: { path: { domain: place }, query: { policy } as object },
          querySerializer: () => queryOf({ policy, plane, ...assumed }),
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const useBurden = (place: string, policy: string, plane: string, assumed: Assumed) =>
  useQuery({
    queryKey: ["domain", place, "burden", policy, plane, assumed],
    queryFn: ({ signal }) =>
      answer(
        server.GET("/api/domains/{domain}/burden", {
          params: { path: { domain: place } },
          querySerializer: () => queryOf({ policy, plane, ...assumed }),
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** The address of policies' burdens as a file. */
export const burdenFile = (place: string, policy: string, plane: string, assumed: Assumed) =>
  `/api/domains/${encodeURIComponent(place)}/burden.csv?${queryOf({ policy, plane, ...assumed })}`;

const markThere = (place: string, body: Schemas["MarkMoved"], signal?: AbortSignal) =>
  answer(
    server.POST("/api/domains/{domain}/tradeoff/moved", {
      params: { path: { domain: place } },
      body,
      signal,
    }),
  );

/** What a policy has with its mark somewhere else; the last answer stays until the next is there. */
export const useMarkThere = (place: string, asked: Schemas["MarkMoved"] | null) =>
  useQuery({
    queryKey: ["domain", place, "mark", asked],
    queryFn: ({ signal }) => markThere(place, asked as Schemas["MarkMoved"], signal),
    enabled: asked !== null,
    placeholderData: keepPreviousData,
  });

/**
 * Give a policy the lockout of its mark, wherever that is by now: it does not wait for what was
 * answered about it. `version` is the state of the policy that was seen.
 */
export const useSaveMark = (domain: string) =>
  useDraftWrite(
    domain,
    async (place, { mark, version }: { mark: Schemas["MarkMoved"]; version: number }) => {
      const { settings } = await markThere(place, mark);
      const { lockout_threshold, lockout_window, lockout_duration } = settings;
      const lockout = { lockout_threshold, lockout_window, lockout_duration };
      const edit = { version, settings: lockout };
      return mark.policy === "domain"
        ? bedrockEdit(place, edit)
        : policyEdit(mark.policy)(place, edit);
    },
  );

/** The address of the plane as a file. */
export const tradeoffFile = (place: string, policy: string, plane: string, assumed: Assumed) =>
  `/api/domains/${encodeURIComponent(place)}/tradeoff.csv?${queryOf({ policy, plane, ...assumed })}`;

const queryOf = (values: Record<string, string>) => String(new URLSearchParams(values));

/** On which days passwords end; what is no number is refused by the server. */
export const useExpiries = (place: string, asked: Assumed) =>
  useQuery({
    queryKey: ["domain", place, "expiries", asked],
    queryFn: ({ signal }) =>
      answer(
        server.GET("/api/domains/{domain}/expiries", {
          params: { path: { domain: place } },
          querySerializer: () => queryOf(asked),
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const expiriesFile = (place: string, asked: Assumed) =>
  `/api/domains/${encodeURIComponent(place)}/expiries.csv?${queryOf(asked)}`;

/** How many present passwords a minimum length would find too short, as far as it is known. */
export const useLengths = (place: string, atLeast: string) =>
  useQuery({
    queryKey: ["domain", place, "lengths", atLeast],
    queryFn: ({ signal }) =>
      answer(
        server.GET("/api/domains/{domain}/expiries/lengths", {
          params: { path: { domain: place } },
          querySerializer: () => queryOf(atLeast ? { at_least: atLeast } : {}),
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
