import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";

export type LostPolicy = Schemas["LostPolicyInfo"];

/** Policies that were lost, and whose names other policies have now. */
export const useLostPolicies = (domain: string) =>
  useQuery({
    queryKey: ["domain", domain, "lost-policies"],
    queryFn: () =>
      answer(server.GET("/api/domains/{domain}/lost-policies", { params: { path: { domain } } })),
  });

/** Gives a policy what the lost policy of its name had. */
export function useRestoreLost(domain: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ guid, policy }: LostPolicy) =>
      answer(
        server.POST("/api/domains/{domain}/lost-policies/{guid}/restore", {
          params: { path: { domain, guid } },
          body: { policy },
        }),
      ),
    onSettled: () => client.invalidateQueries({ queryKey: ["domain", domain] }),
  });
}
