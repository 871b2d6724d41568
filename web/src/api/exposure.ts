// Accounts whose passwords others know, policy by policy, and what becomes of them.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";
import { useJobEvents } from "./jobs";

export type Exposure = Schemas["ExposureInfo"];
export type PolicyExposure = Schemas["PolicyExposure"];
export type ExposedAccount = Schemas["ExposedAccount"];
export type ExposureKind = Schemas["ExposureReason"]["kind"];
export type Corpus = Schemas["CorpusInfo"];

const EXPOSURE = "/api/domains/{domain}/exposure";
const at = (domain: string) => ({ params: { path: { domain } } });

export const useExposure = (domain: string, wanted = true) =>
  useQuery({
    queryKey: ["exposure", domain],
    queryFn: ({ signal }) => answer(server.GET(EXPOSURE, { ...at(domain), signal })),
    enabled: wanted,
    refetchInterval: 10_000,
  });

/** Whose passwords others know: under one policy, or everybody's. */
export const useExposedAccounts = (domain: string, policy: string, wanted: boolean) =>
  useQuery({
    queryKey: ["exposure", domain, "accounts", policy],
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
    queryKey: ["exposure", domain, "of", account],
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
export function useComparisonFollowed(domain: string, job: Schemas["JobInfo"] | null | undefined) {
  const client = useQueryClient();
  useJobEvents(job, (now, ended) => {
    client.setQueryData<Exposure>(["exposure", domain], (held) =>
      held ? { ...held, job: ended ? null : now } : held,
    );
    if (ended) void client.invalidateQueries({ queryKey: ["exposure", domain] });
  });
}

/** Writes after which all of it is read anew, and accounts too: some have to change a password. */
function useExposureWrite<A, R>(domain: string, write: (argument: A) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSuccess: async () => {
      void client.invalidateQueries({ queryKey: ["domain", domain] });
      await client.invalidateQueries({ queryKey: ["exposure", domain] });
    },
  });
}

export const useCompare = (domain: string) =>
  useExposureWrite(domain, () => answer(server.POST(`${EXPOSURE}/look`, { ...at(domain) })));

export const useSetOrder = (domain: string, policy: string) =>
  useExposureWrite(domain, (body: Schemas["OrderEdit"]) =>
    answer(
      server.PUT(`${EXPOSURE}/orders/{policy}`, { params: { path: { domain, policy } }, body }),
    ),
  );

export const useConfirmPlan = (domain: string) =>
  useExposureWrite(domain, (body: Schemas["PlanConfirmed"]) =>
    answer(server.POST(`${EXPOSURE}/plan`, { ...at(domain), body })),
  );
