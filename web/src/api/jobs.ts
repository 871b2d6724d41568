// Long work on the server: followed as it goes on, stopped, begun again.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { answer, server, upload, type Schemas } from "./client";

export type Job = Schemas["JobInfo"];

export const isActive = (job: Job) => job.state === "queued" || job.state === "running";

const LOADS = ["loads"];

/** The latest loads, the newest first, whoever began them and in whichever tab. */
export const useLoads = () =>
  useQuery({ queryKey: LOADS, queryFn: () => answer(server.GET("/api/loads")) });

/**
 * Be told how a job goes on, until it has ended; also if that was before it could be followed.
 * Undefined as long as it is not known whether there is one.
 */
export function useJobEvents(
  job: Job | null | undefined,
  tell: (now: Job, ended: boolean) => void,
) {
  const id = job?.id;
  const active = !!job && isActive(job);
  const told = useEffectEvent(tell);
  const seen = useRef<Job | null | undefined>(undefined);
  const heard = useRef<Job | null>(null);
  useEffect(() => {
    if (!active || !id) return;
    // The browser connects again by itself after an outage, and is told at once how the job is.
    const events = new EventSource(`/api/jobs/${id}/events`);
    events.addEventListener("job", (event) => {
      const now = JSON.parse(event.data as string) as Job;
      const ended = !isActive(now);
      if (ended) {
        events.close();
        heard.current = now;
      }
      told(now, ended);
    });
    return () => events.close();
  }, [id, active]);
  useEffect(() => {
    const before = seen.current;
    seen.current = job;
    if (active) heard.current = null;
    else if (before !== undefined && job !== undefined) {
      const missed = endedBetween(before, job);
      const last = heard.current;
      if (missed && !(last?.id === missed.id && (!job || last.state === job.state)))
        told(missed, true);
    }
  }, [job, active]);
}

/** The job that has ended between two answers; null if none has. `now` goes on no more. */
function endedBetween(before: Job | null, now: Job | null): Job | null {
  if (now) return now.id === before?.id && now.state === before.state ? null : now;
  return before && isActive(before) ? before : null;
}

/** Follow a job in the list of loads until it has ended. */
export function useFollowed(job: Job) {
  const client = useQueryClient();
  useJobEvents(job, (now, ended) => {
    client.setQueryData<Job[]>(LOADS, (loads) =>
      loads?.map((one) => (one.id === now.id ? now : one)),
    );
    if (ended && now.state === "done")
      void client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== LOADS[0] });
  });
}

function useJobBegun() {
  const client = useQueryClient();
  return async (job: Job) => {
    // A list that was asked for before would come without this one and take its place.
    await client.cancelQueries({ queryKey: LOADS });
    client.setQueryData<Job[]>(LOADS, (loads) => [
      job,
      ...(loads ?? []).filter((one) => one.id !== job.id),
    ]);
    void client.invalidateQueries({ queryKey: LOADS });
  };
}

/** Send a dump to be loaded: how much of it has gone, from 0 to 1, null while nothing is sent. */
export function useLoad() {
  const begun = useJobBegun();
  const [sent, setSent] = useState<number | null>(null);
  const load = useMutation({
    mutationFn: async (file: File) => {
      // The password is asked for before a large file is sent, and not after it.
      await answer(server.GET("/api/loads/ready"));
      setSent(0);
      return upload<Job>(`/api/loads?name=${encodeURIComponent(file.name)}`, file, setSent);
    },
    onSuccess: begun,
    onSettled: () => setSent(null),
  });
  return { start: load.mutate, sent, error: load.error };
}

/** Let a load that is held go on, and say why. */
export function useConfirmJob(id: string) {
  const begun = useJobBegun();
  const client = useQueryClient();
  return useMutation({
    mutationFn: (reason: string) =>
      answer(
        server.POST("/api/jobs/{job}/confirm", {
          params: { path: { job: id } },
          body: { reason },
        }),
      ),
    onSuccess: async (job) => {
      await begun(job);
      await client.invalidateQueries({ queryKey: ["acts"] });
    },
  });
}

/** Stop a job, or begin it once more. */
export function useTellJob(id: string) {
  const begun = useJobBegun();
  return useMutation({
    mutationFn: (what: "cancel" | "retry") =>
      answer(server.POST(`/api/jobs/{job}/${what}`, { params: { path: { job: id } } })),
    onSuccess: begun,
  });
}
