// Accounts and groups.
import { useQueries, useQuery } from "@tanstack/react-query";
import { answer, server } from "./client";

export const useAccount = (domain: string, name: string | null) =>
  useQuery({
    queryKey: ["domain", domain, "account", name],
    queryFn: () =>
      answer(
        server.GET("/api/domains/{domain}/accounts/{name}", {
          params: { path: { domain, name: name ?? "" } },
        }),
      ),
    enabled: name !== null,
  });

export const useGroup = (domain: string, name: string | null) =>
  useQuery({
    queryKey: ["domain", domain, "group", name],
    queryFn: () =>
      answer(
        server.GET("/api/domains/{domain}/groups/{name}", {
          params: { path: { domain, name: name ?? "" } },
        }),
      ),
    enabled: name !== null,
  });

export const PAGE = 200;

/**
 * The pages of accounts that are in view, of those a query asks for; a long table never holds more
 * than it shows.
 */
export function useAccountPages(domain: string, query: string, pages: number[]) {
  return useQueries({
    queries: pages.map((page) => ({
      queryKey: ["domain", domain, "accounts", query, page],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        answer(
          server.GET("/api/domains/{domain}/accounts", {
            params: { path: { domain }, query: { offset: page * PAGE, limit: PAGE } },
            querySerializer: (place) =>
              String(new URLSearchParams([...new URLSearchParams(query), ...written(place)])),
            signal,
          }),
        ),
    })),
  });
}

const written = (values: object) =>
  Object.entries(values).map(([key, value]): [string, string] => [key, String(value)]);

/** The address of the same accounts as a file. */
export const accountsFile = (domain: string, query: string) =>
  `/api/domains/${encodeURIComponent(domain)}/accounts.csv${query && `?${query}`}`;

export const useContainers = (domain: string) =>
  useQuery({
    queryKey: ["domain", domain, "containers"],
    queryFn: () =>
      answer(server.GET("/api/domains/{domain}/containers", { params: { path: { domain } } })),
  });
