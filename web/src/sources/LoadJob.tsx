import { Link } from "react-router";
import { isActive, useConfirmJob, useFollowed, useTellJob, type Job } from "../api/jobs";
import { at } from "../draft/place";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { JobProgress } from "../shared/JobProgress";
import { HeldJob } from "./HeldJob";

/** One load: how far it is, what came of it, and a way to stop it or to begin it again. */
export function LoadJob({ job }: { job: Job }) {
  useFollowed(job);
  const tell = useTellJob(job.id);
  const confirm = useConfirmJob(job.id);
  return (
    <li aria-label={`Load of ${job.name}`} className="border-t border-line py-2">
      <p className="flex items-baseline gap-2">
        <span className="min-w-0 truncate" title={job.name}>
          {job.name}
        </span>
        <span className="ml-auto shrink-0 text-xs text-soft">{job.user}</span>
      </p>
      {isActive(job) && <JobProgress job={job} />}
      {job.state === "done" && job.domain && (
        <Alert role="status">
          ✓ {job.domain} is loaded.{" "}
          <Link className="underline" to={`/${at(job.domain)}/strata`}>
            See its strata
          </Link>
        </Alert>
      )}
      {job.state === "cancelled" && <Alert role="status">Stopped. Nothing was stored.</Alert>}
      {job.state === "held" && (
        <HeldJob
          job={job}
          busy={confirm.isPending}
          onConfirm={(reason, done) => confirm.mutate(reason, { onSuccess: done })}
        />
      )}
      {job.state === "failed" && <Refusal error={job.error} also="Nothing was stored." />}
      <div className="mt-1.5 flex gap-2 empty:hidden">
        {(isActive(job) || job.state === "held") && (
          <Button disabled={job.stopping || tell.isPending} onClick={() => tell.mutate("cancel")}>
            {job.stopping ? "Stopping …" : "Stop"}
          </Button>
        )}
        {job.can_retry && (
          <Button disabled={tell.isPending} onClick={() => tell.mutate("retry")}>
            Try again
          </Button>
        )}
      </div>
      <Refusal error={tell.error ?? confirm.error} />
    </li>
  );
}
