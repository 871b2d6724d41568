// Findings, and those that are accepted for a while.
import { useQuery } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";
import { useDomainWrite } from "./writing";

/**
 * The findings at a place; asked for once the caller is `ready`, where something else has to come
 * first.
 */
export const useFindings = (domain: string, ready = true) =>
  useQuery({
    enabled: ready,
    queryKey: ["domain", domain, "findings"],
    queryFn: () =>
      answer(server.GET("/api/domains/{domain}/findings", { params: { path: { domain } } })),
    // Null while the server is still looking.
    select: (answer) => answer.findings,
    refetchInterval: (query) => (query.state.data?.findings === null ? 600 : false),
  });

export const useAccept = (domain: string) =>
  useDomainWrite(domain, (body: Schemas["Acceptance"]) =>
    answer(
      server.POST("/api/domains/{domain}/findings/accepted", {
        params: { path: { domain } },
        body,
      }),
    ),
  );

export const useWithdraw = (domain: string) =>
  useDomainWrite(domain, (key: string) =>
    answer(
      server.DELETE("/api/domains/{domain}/findings/accepted", {
        params: { path: { domain }, query: { key } },
      }),
    ),
  );
