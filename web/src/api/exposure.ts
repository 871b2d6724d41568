// Accounts whose passwords others know, policy by policy, and what becomes of them.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";
import { useJobEvents } from "./jobs";
import { useDomainWrite } from "./writing";

export type Exposure = Schemas["ExposureInfo"];
export type PolicyExposure = Schemas["PolicyExposure"];
export type ExposedAccount = Schemas["ExposedAccount"];
export type ExposureKind = Schemas["ExposureReason"]["kind"];
export type Corpus = Schemas["CorpusInfo"];

const EXPOSURE = "/api/domains/{domain}/exposure";
const at = (domain: string) => ({ params: { path: { domain } } });

export const useExposure = (domain: string) =>
  useQuery({
    queryKey: ["domain", domain, "exposure"],
    queryFn: ({ signal }) => answer(server.GET(EXPOSURE, { ...at(domain), signal })),
    refetchInterval: 10_000,
  });

/** Whose passwords others know: under one policy, or everybody's. */
export const useExposedAccounts = (domain: string, policy: string, wanted: boolean) =>
  useQuery({
    queryKey: ["domain", domain, "exposure", "accounts", policy],
    queryFn: ({ signal }) =>
      answer(
        server.GET(`${EXPOSURE}/accounts`, {
          params: { path: { domain }, query: { policy } },
          signal,
        }),
      ),
    enabled: wanted,
  });

/** What is known of one account's password, for those who may see it. */
export const useExposureOf = (domain: string, account: string, wanted: boolean) =>
  useQuery({
    queryKey: ["domain", domain, "exposure", "of", account],
    queryFn: ({ signal }) =>
      answer(
        server.GET(`${EXPOSURE}/accounts`, {
          params: { path: { domain }, query: { account } },
          signal,
        }),
      ),
    enabled: wanted,
  });

/** Everything is read anew when the comparison that goes on has ended. */
export function useComparisonFollowed(domain: string, job: Schemas["JobInfo"] | null) {
  const client = useQueryClient();
  useJobEvents(job, (now, ended) => {
    client.setQueryData<Exposure>(["domain", domain, "exposure"], (held) =>
      held ? { ...held, job: ended ? null : now } : held,
    );
    if (ended) void client.invalidateQueries({ queryKey: ["domain", domain, "exposure"] });
  });
}

export const useCompare = (domain: string) =>
  useDomainWrite(domain, () => answer(server.POST(`${EXPOSURE}/look`, { ...at(domain) })));

export const useSetOrder = (domain: string, policy: string) =>
  useDomainWrite(domain, (body: Schemas["OrderEdit"]) =>
    answer(
      server.PUT(`${EXPOSURE}/orders/{policy}`, { params: { path: { domain, policy } }, body }),
    ),
  );

export const useConfirmPlan = (domain: string) =>
  useDomainWrite(domain, (body: Schemas["PlanConfirmed"]) =>
    answer(server.POST(`${EXPOSURE}/plan`, { ...at(domain), body })),
  );
