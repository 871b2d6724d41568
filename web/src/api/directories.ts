// Domains' own directories: how they are reached, and reading them.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";
import { useJobEvents, type Job } from "./jobs";

export type Connection = Schemas["Connection"];
export type Directory = Schemas["DirectoryInfo"];

const keyOf = (domain: string) => ["directory", domain];
const at = (domain: string) => ({ params: { path: { domain } } });

export const useDirectory = (domain: string, wanted = true) =>
  useQuery({
    queryKey: keyOf(domain),
    queryFn: () => answer(server.GET("/api/directories/{domain}", at(domain))),
    enabled: wanted,
  });

/** Something about how a directory is reached or read has changed. */
function useDirectoryWrite<A, R>(domain: string, write: (argument: A) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSuccess: () =>
      Promise.all([
        client.invalidateQueries({ queryKey: keyOf(domain) }),
        client.invalidateQueries({ queryKey: ["acts"] }),
      ]),
  });
}

export const useConnect = (domain: string) =>
  useDirectoryWrite(domain, (body: Schemas["ConnectionAsked"]) =>
    answer(server.PUT("/api/directories/{domain}", { ...at(domain), body })),
  );

export const useDisconnect = (domain: string) =>
  useDirectoryWrite(domain, (reason: string) =>
    answer(
      server.DELETE("/api/directories/{domain}", {
        params: { path: { domain }, query: { reason } },
      }),
    ),
  );

/** What works of a connection; nothing is changed. */
export const useTryConnection = (domain: string) =>
  useMutation({
    mutationFn: (connection: Connection) =>
      answer(
        server.POST("/api/directories/{domain}/test", { ...at(domain), body: { connection } }),
      ),
  });

export const useReadDirectory = (domain: string) =>
  useDirectoryWrite(domain, (whole: boolean) =>
    answer(server.POST("/api/directories/{domain}/read", { ...at(domain), body: { whole } })),
  );

export const useCompare = (domain: string) =>
  useDirectoryWrite(domain, () =>
    answer(server.POST("/api/directories/{domain}/compare", at(domain))),
  );

/** Let dumps of the domain be imported for an hour though its directory is connected. */
export const useAllowDumps = (domain: string) =>
  useDirectoryWrite(domain, (reason: string) =>
    answer(server.POST("/api/directories/{domain}/dumps", { ...at(domain), body: { reason } })),
  );

/** Stop what is being read, or let go on what is held. */
export const useTellReading = (domain: string, job: string) =>
  useDirectoryWrite(domain, (what: "cancel" | { reason: string }) =>
    typeof what === "string"
      ? answer(server.POST("/api/jobs/{job}/cancel", { params: { path: { job } } }))
      : answer(server.POST("/api/jobs/{job}/confirm", { params: { path: { job } }, body: what })),
  );

/** Follow what is being read until it has ended; then everything may be otherwise. */
export function useFollowedReading(domain: string, job: Job | null | undefined) {
  const client = useQueryClient();
  useJobEvents(job, (now, ended) => {
    client.setQueryData<Directory>(keyOf(domain), (held) => held && { ...held, job: now });
    if (ended) void client.invalidateQueries();
  });
}
