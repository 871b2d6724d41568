import { EmptyState } from "../kit/EmptyState";
import { useState } from "react";
import {
  useAllowDumps,
  useCompare,
  useDirectory,
  useFollowedReading,
  useReadDirectory,
  useTellReading,
  type Directory,
} from "../api/directories";
import { isActive, type Job } from "../api/jobs";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure } from "../kit/Loading";
import { May } from "../shared/May";
import { PartHead } from "../kit/PartHead";
import { momentText } from "../shared/moments";
import { awayText, plural } from "../shared/span";
import { useUrlState } from "../shared/useUrlState";
import { ReasonForm } from "../kit/ReasonForm";
import { JobProgress } from "../shared/JobProgress";
import { HeldJob } from "./HeldJob";

/** A domain's own directory: when it was read, what that brought, and reading it again. */
export function DirectoryPart({ domain }: { domain: string }) {
  const directory = useDirectory(domain);
  const [, connect] = useUrlState("connect");
  const { data } = directory;
  useFollowedReading(domain, data?.job);
  return (
    <section aria-label="Directory" className="mt-2">
      <PartHead
        level={4}
        beside={
          <May right="settings" at={domain}>
            <Button size="small" onClick={() => connect(domain)}>
              {data?.connected ? "Connection …" : "Connect …"}
            </Button>
          </May>
        }
      >
        Directory
      </PartHead>
      {directory.error && (
        <Failure error={directory.error} retry={() => void directory.refetch()} />
      )}
      {data && !data.connected && (
        <EmptyState>
          Not connected: what is shown comes from a dump. Connected, it is read by itself.
        </EmptyState>
      )}
      {data?.connected && <Connected domain={domain} directory={data} />}
    </section>
  );
}

function Connected({ domain, directory }: { domain: string; directory: Directory }) {
  const { reading, job } = directory;
  const read = useReadDirectory(domain);
  const compare = useCompare(domain);
  const busy = (job !== null && (isActive(job) || job.state === "held")) || read.isPending;
  return (
    <>
      <p className="py-1">
        {reading?.read_at
          ? `Read at ${reading.server} ${awayText(reading.read_at)}`
          : "Not read yet"}
        {reading?.whole_at && `, all of it ${awayText(reading.whole_at)}`}
        {reading?.read_at && ` · ${plural(reading.objects, "object")}`}
      </p>
      <May right="load" at={domain}>
        <div className="flex flex-wrap gap-2">
          <Button tone="main" disabled={busy} onClick={() => read.mutate(false)}>
            Read what is new
          </Button>
          <Button disabled={busy} onClick={() => read.mutate(true)}>
            Read everything
          </Button>
          <Button
            disabled={busy || compare.isPending || !reading?.read_at}
            onClick={() => compare.mutate(undefined)}
          >
            Compare everybody
          </Button>
        </div>
      </May>
      <Refusal error={read.error ?? compare.error} />
      {job && <ReadingJob domain={domain} job={job} />}
      <May right="settings" at={domain}>
        <DumpsSwitch domain={domain} until={directory.dumps_until} />
      </May>
      {reading && <Brought reading={reading} />}
    </>
  );
}

/** Dumps of a connected domain are refused; an administrator may turn them on for an hour. */
function DumpsSwitch({ domain, until }: { domain: string; until: string | null }) {
  const allow = useAllowDumps(domain);
  const [asked, setAsked] = useState(false);
  if (until)
    return <p className="mt-1.5 text-warn">△ Dumps are imported until {momentText(until)}.</p>;
  return (
    <div className="mt-1.5 space-y-1.5">
      {asked ? (
        <ReasonForm
          act="Turn dumps on"
          busy={allow.isPending}
          onAct={(reason) => allow.mutate(reason, { onSuccess: () => setAsked(false) })}
          onKeep={() => setAsked(false)}
        >
          Dumps of this domain are imported for one hour, in place of what the sync has brought.
        </ReasonForm>
      ) : (
        <Button size="small" onClick={() => setAsked(true)}>
          Turn dumps on for an hour …
        </Button>
      )}
      {allow.data?.waits && <Alert>Waits for a second person (People).</Alert>}
      <Refusal error={allow.error} />
    </div>
  );
}

function ReadingJob({ domain, job }: { domain: string; job: Job }) {
  const tell = useTellReading(domain, job.id);
  return (
    <div className="mt-1.5 space-y-1.5 empty:hidden">
      {isActive(job) && <JobProgress job={job} />}
      {job.state === "failed" && <Refusal error={job.error} also="What was read before stands." />}
      {job.state === "held" && (
        <HeldJob
          job={job}
          busy={tell.isPending}
          onConfirm={(reason, done) => tell.mutate({ reason }, { onSuccess: done })}
        />
      )}
      {(isActive(job) || job.state === "held") && (
        <Button disabled={job.stopping || tell.isPending} onClick={() => tell.mutate("cancel")}>
          {job.stopping ? "Stopping …" : "Stop"}
        </Button>
      )}
      <Refusal error={tell.error} />
    </div>
  );
}

function Brought({ reading }: { reading: NonNullable<Directory["reading"]> }) {
  const unread = reading.templates.filter((one) => one.problem);
  return (
    <>
      {reading.read_at && (
        <>
          <h5 className="mt-2 font-medium">What the last reading brought</h5>
          {reading.news.length === 0 ? (
            <p className="text-soft">
              {reading.first
                ? "The domain itself: it was the first one."
                : "Nothing: all was as before."}
            </p>
          ) : (
            <ul>
              {reading.news.map((one, number) => (
                <li key={number} className="border-b border-line/60 py-0.5">
                  {!one.text.includes(one.subject.slice(0, -1)) && <b>{one.subject}: </b>}
                  {one.text}
                  {one.names.length > 0 && (
                    <span className="text-soft"> · {one.names.join(", ")}</span>
                  )}
                  {one.at && (
                    <span className="text-soft">
                      {" "}
                      · {awayText(one.at)}
                      {one.where && ` at ${one.where}`}
                    </span>
                  )}
                </li>
              ))}
            </ul>
          )}
        </>
      )}
      {unread.map((one) => (
        <p key={one.name} className="mt-1 text-warn">
          △ {one.name}: {one.problem}
        </p>
      ))}
      {reading.agreement && <Agreement agreement={reading.agreement} />}
    </>
  );
}

type Agreed = NonNullable<NonNullable<Directory["reading"]>["agreement"]>;

function Agreement({ agreement }: { agreement: Agreed }) {
  const { asked, disagree, found } = agreement;
  const whom = `${plural(asked, "account")}${agreement.everybody ? ", everybody" : ", a sample"}`;
  return (
    <>
      <h5 className="mt-2 font-medium">The directory’s own word</h5>
      {disagree === 0 ? (
        <p>
          ✓ It says the same of {whom}, {awayText(agreement.at)}.
        </p>
      ) : (
        <>
          <p className="text-warn">
            △ Of {whom}, it says otherwise of {disagree.toLocaleString("en")},{" "}
            {awayText(agreement.at)}.
          </p>
          <div className="max-h-60 overflow-auto" tabIndex={0} role="group" aria-label="Who it is">
            <table className="w-full border-collapse text-left">
              <thead>
                <tr className="border-b border-line text-soft">
                  {["Account", "Here", "There", "Why here"].map((head) => (
                    <th key={head} scope="col" className="pr-2 font-normal">
                      {head}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {found.map((one) => (
                  <tr key={one.account + one.about} className="border-b border-line/60 align-top">
                    <th scope="row" className="pr-2 font-medium">
                      {one.account}
                    </th>
                    <td className="pr-2">{one.ours}</td>
                    <td className="pr-2">{one.theirs}</td>
                    <td className="text-soft">{one.reason}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {disagree > found.length && (
            <p className="text-xs text-soft">The first {found.length} are shown.</p>
          )}
        </>
      )}
    </>
  );
}
