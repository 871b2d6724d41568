// The gate of a domain: who may ask there, what came of it, passwords that end by their length.
import { useQuery } from "@tanstack/react-query";
import { domainOf } from "../draft/place";
import { answer, server, type Schemas } from "./client";
import { useDomains } from "./domains";
import { useDomainWrite } from "./writing";

export type Caller = Schemas["CallerInfo"];
export type CallerKind = Caller["kind"];
export type Lifetimes = Schemas["LifetimesInfo"];
export type GateAnswer = Schemas["AnswerInfo"];

const GATE = "/api/domains/{domain}/gate";
const at = (domain: string) => ({ params: { path: { domain } } });

export const useCallers = (domain: string) =>
  useQuery({
    queryKey: ["domain", domain, "gate"],
    queryFn: ({ signal }) => answer(server.GET(`${GATE}/callers`, { ...at(domain), signal })),
    refetchInterval: 10_000,
  });

export const useLifetimes = (domain: string) =>
  useQuery({
    queryKey: ["domain", domain, "gate", "lifetimes"],
    queryFn: ({ signal }) => answer(server.GET(`${GATE}/lifetimes`, { ...at(domain), signal })),
    refetchInterval: 60_000,
  });

/** What came of the latest questions, those about one account where it is named. */
export const useGateAnswers = (domain: string, account: string) =>
  useQuery({
    queryKey: ["domain", domain, "gate", "answers", account],
    queryFn: ({ signal }) =>
      answer(
        server.GET(`${GATE}/answers`, {
          params: { path: { domain }, query: { account } },
          signal,
        }),
      ),
    refetchInterval: 10_000,
  });

export const useMakeCaller = (domain: string) =>
  useDomainWrite(domain, (body: Schemas["CallerNew"]) =>
    answer(server.POST(`${GATE}/callers`, { ...at(domain), body })),
  );

export const useDropCaller = (domain: string) =>
  useDomainWrite(domain, ({ number, reason }: { number: string; reason: string }) =>
    answer(
      server.DELETE(`${GATE}/callers/{number}`, {
        params: { path: { domain, number }, query: { reason } },
      }),
    ),
  );

export const useSetLifetimes = (domain: string) =>
  useDomainWrite(domain, (body: Schemas["LifetimesEdit"]) =>
    answer(server.PUT(`${GATE}/lifetimes`, { ...at(domain), body })),
  );

/** Where additions hold in the domain of a place: here alone as long as that is not known. */
export function useEnforced(place: string) {
  const here = useDomains().data?.find((domain) => domain.dns_name === domainOf(place));
  return here?.enforced ?? "here";
}
