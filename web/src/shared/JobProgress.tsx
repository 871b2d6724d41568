import type { Job } from "../api/jobs";
import { plural } from "./span";

const STEPS: Record<string, string> = {
  connecting: "Connecting",
  reading: "Reading",
  understanding: "Understanding",
  storing: "Storing",
  comparing: "Comparing",
  verifying: "Checking the lists",
  writing: "Writing",
  "taking back": "Taking back",
};

const UNITS: Partial<Record<Job["kind"], string>> = {
  agreement: "account",
  exposure: "account",
  publish: "step",
};

/** How far long work is. */
export function JobProgress({ job }: { job: Job }) {
  const part = job.of > 0 ? Math.min(1, job.done / job.of) : null;
  const words = job.state === "queued" ? "Waiting for a worker" : (STEPS[job.step] ?? "Beginning");
  return (
    <div role="status" className="min-h-[38px]">
      <progress
        className="block h-1.5 w-full"
        aria-label={`${words} ${job.name}`}
        value={part ?? undefined}
        max={1}
      />
      <p className="mt-0.5 text-xs text-soft tabular-nums">
        {words} … {part !== null && `${Math.floor(part * 100)} %`}
        {job.rate > 0 && ` · ${rateText(job)}`}
        {job.left !== null && ` · ${leftText(job.left)} left`}
      </p>
    </div>
  );
}

function rateText(job: Job) {
  if (job.kind === "load" && job.step === "reading")
    return `${(job.rate / 1e6).toFixed(1)} MB a second`;
  const what = UNITS[job.kind] ?? (job.step === "storing" ? "row" : "object");
  return `${plural(Math.round(job.rate), what)} a second`;
}

const leftText = (seconds: number) =>
  seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`;
