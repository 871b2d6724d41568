// Baselines held against a domain, and their gaps closed in a draft.
import { useQuery } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";
import { useDomainWrite, useDraftWrite } from "./writing";

export const useBaselines = () =>
  useQuery({
    queryKey: ["baselines"],
    queryFn: () => answer(server.GET("/api/baselines")),
  });

export const useBaseline = (domain: string, name: string) =>
  useQuery({
    queryKey: ["domain", domain, "baseline", name],
    queryFn: ({ signal }) =>
      answer(
        server.GET("/api/domains/{domain}/baselines/{name}", {
          params: { path: { domain, name } },
          signal,
        }),
      ),
    enabled: name !== "",
  });

/** What a baseline asks of one policy for the accounts under it; "" for no baseline. */
export const useAsked = (domain: string, name: string, policy: string) =>
  useQuery({
    queryKey: ["domain", domain, "baseline", name, "of", policy],
    queryFn: ({ signal }) =>
      answer(
        server.GET("/api/domains/{domain}/baselines/{name}/policies/{policy}", {
          params: { path: { domain, name, policy } },
          signal,
        }),
      ),
    enabled: name !== "",
  });

/** Two baselines side by side; "" for no other one. */
export const useBeside = (name: string, other: string) =>
  useQuery({
    queryKey: ["baselines", name, "beside", other],
    queryFn: ({ signal }) =>
      answer(
        server.GET("/api/baselines/{name}/beside/{other}", {
          params: { path: { name, other } },
          signal,
        }),
      ),
    enabled: name !== "" && other !== "",
  });

/** Changes a policy in the draft so that it meets a recommendation. */
export const useCloseGap = (domain: string, name: string) =>
  useDraftWrite(domain, (place, body: Schemas["GapClosing"]) =>
    answer(
      server.POST("/api/domains/{domain}/baselines/{name}/gaps", {
        params: { path: { domain: place, name } },
        body,
      }),
    ),
  );

/** That a recommendation is not followed: accepted for a while, or no longer. */
export function useExceptions(domain: string, name: string) {
  const params = { path: { domain, name } };
  const accept = useDomainWrite(domain, (body: Schemas["ExceptionNew"]) =>
    answer(server.POST("/api/domains/{domain}/baselines/{name}/exceptions", { params, body })),
  );
  const withdraw = useDomainWrite(domain, (recommendation: string) =>
    answer(
      server.DELETE("/api/domains/{domain}/baselines/{name}/exceptions", {
        params: { ...params, query: { recommendation } },
      }),
    ),
  );
  return { accept, withdraw };
}
