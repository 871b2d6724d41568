// Servers that should agree: their templates taken in, compared, corrected.
import { useQuery } from "@tanstack/react-query";
import { answer, asItIs, server, type Schemas } from "./client";
import { useDomainWrite } from "./writing";

const SETS = "/api/domains/{domain}/server-sets";

export const useServerSets = (domain: string) =>
  useQuery({
    queryKey: ["domain", domain, "servers"],
    queryFn: ({ signal }) => answer(server.GET(SETS, { params: { path: { domain } }, signal })),
    refetchInterval: 60_000,
  });

export const useServerSet = (domain: string, number: number | undefined) =>
  useQuery({
    queryKey: ["domain", domain, "servers", number],
    queryFn: ({ signal }) =>
      answer(
        server.GET(`${SETS}/{number}`, {
          params: { path: { domain, number: number ?? 0 } },
          signal,
        }),
      ),
    enabled: number !== undefined,
    refetchInterval: 60_000,
  });

/** What was read of one server, and when. */
export const useServerCourse = (domain: string, number: number, name: string) =>
  useQuery({
    queryKey: ["domain", domain, "servers", number, name],
    queryFn: ({ signal }) =>
      answer(
        server.GET(`${SETS}/{number}/servers`, {
          params: { path: { domain, number }, query: { name } },
          signal,
        }),
      ),
  });

export const useMakeServerSet = (domain: string) =>
  useDomainWrite(domain, (name: string) =>
    answer(server.POST(SETS, { params: { path: { domain } }, body: { name } })),
  );

/** Reads what is new in the watched folder now. */
export const useReadFolder = (domain: string) =>
  useDomainWrite(domain, () =>
    answer(server.POST(`${SETS}/watched`, { params: { path: { domain } } })),
  );

export interface ServerFile {
  path: string;
  file: File;
}

/** Takes one server's template. What is shown is asked for anew by whoever takes the last one. */
export const takeTemplate = (domain: string, number: number, { path, file }: ServerFile) =>
  answer(
    server.PUT(`${SETS}/{number}/servers/template`, {
      params: { path: { domain, number }, query: { path } },
      ...asItIs(file),
    }),
  );

/** What is done to a set that is there. */
export function useServerSetWrites(domain: string, number: number) {
  const params = { path: { domain, number } };
  const hold = useDomainWrite(domain, (body: Schemas["HoldAgainst"]) =>
    answer(server.POST(`${SETS}/{number}/held-against`, { params, body })),
  );
  const rename = useDomainWrite(domain, (name: string) =>
    answer(server.PATCH(`${SETS}/{number}`, { params, body: { name } })),
  );
  const drop = useDomainWrite(domain, () => answer(server.DELETE(`${SETS}/{number}`, { params })));
  const dropServer = useDomainWrite(domain, (name: string) =>
    answer(server.DELETE(`${SETS}/{number}/servers`, { params: { ...params, query: { name } } })),
  );
  return { hold, rename, drop, dropServer };
}

export const correctedFiles = (domain: string, number: number) =>
  `/api/domains/${encodeURIComponent(domain)}/server-sets/${number}/corrected`;
