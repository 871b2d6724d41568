// Locked accounts, and unlocking them.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { domainOf } from "../draft/place";
import { answer, server, type Schemas } from "./client";
import { useJobEvents, type Job } from "./jobs";

const MINUTE = 60_000;

/** Who is locked or close to it. Locks end by themselves, so it is looked at again now and then. */
export const useLocks = (place: string) =>
  useQuery({
    queryKey: ["domain", place, "locks"],
    queryFn: () =>
      answer(server.GET("/api/domains/{domain}/locks", { params: { path: { domain: place } } })),
    refetchInterval: MINUTE,
    enabled: place !== "-",
  });

/** The locks of one account that loads have found, the latest first. */
export const useEarlierLocks = (place: string, name: string) =>
  useQuery({
    queryKey: ["domain", place, "locks", name],
    queryFn: () =>
      answer(
        server.GET("/api/domains/{domain}/locks/of/{name}", {
          params: { path: { domain: place, name } },
        }),
      ),
  });

export type AccountDeed = "unlockings" | "must-change";

/** Unlock accounts, or have them choose another password at the next sign-in. */
export function useAccountDeed(place: string, deed: AccountDeed) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["UnlockNew"]) =>
      answer(
        server.POST(`/api/domains/{domain}/locks/${deed}`, {
          params: { path: { domain: place } },
          body,
        }),
      ),
    // Who is locked may have changed, whether it was taken or refused.
    onSettled: () => {
      void client.invalidateQueries({ predicate: (query) => query.queryKey[2] === "locks" });
      void client.invalidateQueries({ predicate: (query) => query.queryKey[2] === "history" });
    },
  });
}

/** Follow the reading that comes after an unlocking: then everything may be otherwise. */
export function useUnlockingRead(job: Job | null) {
  const client = useQueryClient();
  useJobEvents(job, (_, ended) => {
    if (ended) void client.invalidateQueries();
  });
}

/** The address of an unlocking as a file of change records. */
export const unlockingFile = (place: string, point: number) =>
  `/api/domains/${encodeURIComponent(domainOf(place))}/history/${point}/unlocking.ldif`;

/** The address of a publication as a file of change records. */
export const changesFile = (place: string, point: number) =>
  `/api/domains/${encodeURIComponent(domainOf(place))}/history/${point}/changes.ldif`;
