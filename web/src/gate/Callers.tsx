import { EmptyState } from "../kit/EmptyState";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useDropCaller, type Caller } from "../api/gate";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { May } from "../shared/May";
import { PartHead } from "../kit/PartHead";
import { awayText } from "../shared/span";
import { ReasonForm } from "../kit/ReasonForm";
import { KINDS } from "./kinds";
import { NewCaller } from "./NewCaller";

/** Who may ask, how each stands, one more. */
export function Callers({ domain, callers }: { domain: string; callers: Caller[] }) {
  const [made, setMade] = useState<Schemas["CallerMade"] | null>(null);
  return (
    <section aria-label="Who asks">
      <PartHead>Who asks</PartHead>
      {callers.length === 0 && (
        <EmptyState>Nobody yet: what is asked besides is judged here only.</EmptyState>
      )}
      <ul>
        {callers.map((one) => (
          <CallerLine key={one.id} domain={domain} caller={one} />
        ))}
      </ul>
      {made && <Made made={made} onDone={() => setMade(null)} />}
      <May right="settings" at={domain}>
        <NewCaller domain={domain} onMade={setMade} />
      </May>
    </section>
  );
}

function CallerLine({ domain, caller }: { domain: string; caller: Caller }) {
  const drop = useDropCaller(domain);
  const [asked, setAsked] = useState(false);
  const { accepted, refused, unanswered, slowest } = caller;
  return (
    <li className="border-b border-line/60 py-1.5">
      <div className="flex items-start gap-2">
        <p className="min-w-0 flex-1 break-words">
          <b className="font-medium">{caller.title}</b>{" "}
          <span className="text-soft">{KINDS[caller.kind].label}</span>
        </p>
        <May right="settings" at={domain}>
          {!asked && (
            <Button
              size="small"
              aria-label={`Take out ${caller.title}`}
              onClick={() => setAsked(true)}
            >
              Take out …
            </Button>
          )}
        </May>
      </div>
      {caller.trouble ? (
        <p className="text-warn">△ {caller.trouble}</p>
      ) : (
        <p>✓ {KINDS[caller.kind].asks}</p>
      )}
      <p className="text-xs text-soft">
        {caller.seen_at ? `Heard of ${awayText(caller.seen_at)}` : "Never heard of"} · in the last
        24 hours {accepted.toLocaleString("en")} accepted, {refused.toLocaleString("en")} refused
        {unanswered > 0 && `, ${unanswered.toLocaleString("en")} without an answer`}
        {slowest !== null && ` · slowest answer ${(slowest / 1000).toFixed(1)} ms`}
        {caller.otherwise &&
          ` · without an answer in time a password is ${caller.otherwise === "refuse" ? "refused" : "taken"}`}
      </p>
      {asked && (
        <ReasonForm
          act={`Take ${caller.title} out`}
          busy={drop.isPending}
          onAct={(reason) => drop.mutate({ number: caller.id, reason })}
          onKeep={() => setAsked(false)}
        >
          {`From then on ${caller.title} gets no answer. What it makes of that is set there: have it ask no more first.`}
        </ReasonForm>
      )}
      <Refusal error={drop.error} />
    </li>
  );
}

/** The token of a new caller, and what to do with it. */
function Made({ made, onDone }: { made: Schemas["CallerMade"]; onDone: () => void }) {
  const here = window.location.origin;
  return (
    <Alert role="status">
      <p>
        ✓ The token of “{made.title}”, shown this once:
        <code className="mt-1 block font-mono break-all select-all">{made.token}</code>
      </p>
      {made.waits && (
        <p className="mt-1 text-warn">
          △ The token opens nothing before a second person has agreed (People).
        </p>
      )}
      {made.kind === "hook" ? (
        <ol className="mt-1.5 list-decimal space-y-1 pl-4">
          <li>Put it into a file on that server that only root can read.</li>
          <li>
            Have the gate run there:
            <Command>{`hornfels gate serve --from ${here} --token-file FILE`}</Command>
          </li>
          <li>
            Put the line that this prints into the server’s configuration:
            <Command>hornfels gate hook --otherwise refuse</Command>
          </li>
        </ol>
      ) : (
        <p className="mt-1.5">
          It is sent as <code className="font-mono">Authorization: Bearer …</code> with each
          question to <Command>{`POST ${here}/api/gate/v1/check`}</Command>
        </p>
      )}
      <Button size="small" className="mt-1.5" onClick={onDone}>
        I have it
      </Button>
    </Alert>
  );
}

function Command({ children }: { children: string }) {
  return <code className="block font-mono text-xs break-all select-all">{children}</code>;
}
