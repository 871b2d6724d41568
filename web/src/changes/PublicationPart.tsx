import { useState } from "react";
import {
  useClosePublication,
  useGoOn,
  usePublication,
  useStopPublication,
  type Publication,
} from "../api/publications";
import { isActive } from "../api/jobs";
import { announce } from "../shared/announce";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { JobProgress } from "../shared/JobProgress";
import { May } from "../shared/May";
import { SaidLine } from "../shared/SaidLine";
import { ReasonForm } from "../kit/ReasonForm";

const MARKS = {
  waiting: { sign: "○", words: "not done" },
  begun: { sign: "◐", words: "begun" },
  done: { sign: "●", words: "done" },
} as const;

/** A draft on its way into the directory: how far it is, and how to go on where it has stopped. */
export function PublicationPart({ place }: { place: string }) {
  const { data } = usePublication(place);
  const back = data?.back;
  const [going, setGoing] = useState(back);
  if (going !== back) {
    setGoing(back);
    if (data === null) announce(going ? "It is taken back." : "Published, and read back.");
  }
  if (!data) return null;
  return <UnderWay place={place} publication={data} />;
}

function UnderWay({ place, publication }: { place: string; publication: Publication }) {
  const { title, author, state, back, told, job, steps } = publication;
  const goOn = useGoOn(place);
  const stop = useStopPublication(place);
  const done = steps.filter((step) => step.state === "done").length;
  const going = state === "going";
  return (
    <section
      id="publication"
      tabIndex={-1}
      aria-label="Publishing"
      className="max-h-[60%] shrink-0 space-y-1.5 overflow-y-auto border-b border-line bg-white px-4 py-2 small:px-2"
    >
      <h2 className="text-sm">
        “{title}”{" "}
        {going
          ? back
            ? "is being taken back out of the directory"
            : "is being written into the directory"
          : `has stopped on the way: ${done} of ${steps.length} steps are done`}
      </h2>
      {going && job && isActive(job) && <JobProgress job={job} />}
      {!going && (
        <Alert tone="fail" role="alert">
          ✕ {told}
        </Alert>
      )}
      <p className="text-soft">
        {going
          ? `${author} published it. It is live here when all of it is written; until then nothing else is read or published.`
          : "Finish it when the reason is mended, or take back what is done: the draft is open again then, and the directory can be read."}
      </p>
      <May right="publish" at={place}>
        <div className="flex flex-wrap gap-2">
          {going && job ? (
            <Button disabled={job.stopping || stop.isPending} onClick={() => stop.mutate(job.id)}>
              {job.stopping ? "Stopping …" : "Stop"}
            </Button>
          ) : (
            <>
              <Button tone="main" disabled={goOn.isPending} onClick={() => goOn.mutate(false)}>
                Finish it
              </Button>
              <Button disabled={goOn.isPending} onClick={() => goOn.mutate(true)}>
                Take it back
              </Button>
            </>
          )}
        </div>
      </May>
      {!going && <CloseAsItIs place={place} />}
      <Refusal error={goOn.error ?? stop.error} />
      <ol className="border-t border-line/60">
        {steps.map((step, number) => (
          <li key={number} className="flex gap-2 border-b border-line/60 py-0.5">
            <span
              role="img"
              aria-label={MARKS[step.state].words}
              title={MARKS[step.state].words}
              className={step.state === "done" ? "text-pass" : "text-soft"}
            >
              {MARKS[step.state].sign}
            </span>
            <span className="min-w-0">
              <SaidLine said={step.said} />
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}

/** The way out where neither way leads on. */
function CloseAsItIs({ place }: { place: string }) {
  const close = useClosePublication(place);
  const [asked, setAsked] = useState(false);
  return (
    <May right="settings" at={place}>
      {asked ? (
        <ReasonForm
          act="Close as it is"
          busy={close.isPending}
          onAct={(reason) =>
            close.mutate(reason, {
              onSuccess: () => announce("Closed. The history says what the directory holds."),
            })
          }
          onKeep={() => {
            close.reset();
            setAsked(false);
          }}
        >
          Nothing more is written. The history keeps what the directory holds of each step, the
          draft is open again, and the domain is synced whole.
        </ReasonForm>
      ) : (
        <Button onClick={() => setAsked(true)}>Close as it is …</Button>
      )}
      <Refusal error={close.error} />
    </May>
  );
}
