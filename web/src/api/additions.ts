// What policies ask beyond the directory's own rules, and the lists of blocked terms.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, asItIs, server, type Schemas } from "./client";
import { policyWrite, useDraftWrite } from "./writing";

export type Addition = Schemas["AdditionBody"];
export type Rule = Schemas["RulePart"];
export type PathName = "password" | "phrase";

export const useAddition = (domain: string, policy: string, wanted = true) =>
  useQuery({
    enabled: wanted,
    queryKey: ["domain", domain, "addition", policy],
    queryFn: () =>
      answer(
        server.GET("/api/domains/{domain}/additions/{policy}", {
          params: { path: { domain, policy } },
        }),
      ),
  });

export const useSetAddition = (domain: string, policy: string) =>
  useDraftWrite(
    domain,
    policyWrite(policy, (place, body: Schemas["AdditionEdit"]) =>
      answer(
        server.PUT("/api/domains/{domain}/additions/{policy}", {
          params: { path: { domain: place, policy } },
          body,
        }),
      ),
    ),
  );

/**
 * What each rule does, saved or not. A list of passwords that somebody brings goes along in the
 * request's body; what comes back is invented, and kept no longer than it is shown.
 */
export const useEffects = (
  domain: string,
  policy: string,
  addition: Addition | null,
  sample: { lines: string[]; turn: number } | null,
) =>
  useQuery({
    queryKey: ["domain", domain, "effects", policy, addition, sample?.turn],
    queryFn: async ({ signal }) => ({
      ...(await answer(
        server.POST("/api/domains/{domain}/additions/{policy}/effects", {
          params: { path: { domain, policy } },
          body: { addition: addition as Addition, sample: sample?.lines ?? [] },
          signal,
        }),
      )),
      // What the answer is about: until the next one is there, it may stand beside other rules.
      of: addition as Addition,
    }),
    enabled: addition !== null,
    placeholderData: keepPreviousData,
    gcTime: 0,
    retry: false,
  });

export const useTermLists = (domain: string) =>
  useQuery({
    queryKey: ["domain", domain, "term lists"],
    queryFn: () =>
      answer(server.GET("/api/domains/{domain}/blocked-terms", { params: { path: { domain } } })),
  });

export const useTerms = (domain: string, name: string) =>
  useQuery({
    queryKey: ["domain", domain, "terms", name],
    queryFn: () =>
      answer(
        server.GET("/api/domains/{domain}/blocked-terms/{name}", {
          params: { path: { domain, name } },
        }),
      ),
    enabled: name !== "",
  });

export interface TermsGiven {
  name: string;
  /** The digest of the list as it was seen, "" for a new one. */
  seen: string;
  /** One a line. */
  terms: Blob;
}

export const useSetTerms = (domain: string) =>
  useDraftWrite(domain, (place, { name, seen, terms }: TermsGiven) =>
    answer(
      server.PUT("/api/domains/{domain}/blocked-terms/{name}", {
        params: { path: { domain: place, name }, query: { seen } },
        ...asItIs(terms),
      }),
    ),
  );

export const useDropTerms = (domain: string) =>
  useDraftWrite(domain, (place, { name, seen }: Omit<TermsGiven, "terms">) =>
    answer(
      server.DELETE("/api/domains/{domain}/blocked-terms/{name}", {
        params: { path: { domain: place, name }, query: { seen } },
      }),
    ),
  );
