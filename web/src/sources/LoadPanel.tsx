import { useRef } from "react";
import { isActive, useLoad, useLoads } from "../api/jobs";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { LoadJob } from "./LoadJob";

const COMMAND = "ldapsearch -LLL -E pr=1000/noprompt -b 'DC=…' \\\n  '(objectClass=*)' > dump.ldif";
const SHOWN = 3;

/** Bring in a dump: send it, then follow the worker that reads and stores it. */
export function LoadPanel({ first }: { first: boolean }) {
  const file = useRef<HTMLInputElement>(null);
  const loads = useLoads();
  const { start, sent, error } = useLoad();
  // What goes on, and what came of the last one.
  const shown = (loads.data ?? [])
    .filter((job, number) => number === 0 || isActive(job) || job.state === "held")
    .slice(0, SHOWN);

  return (
    <section aria-label="Load a dump" className="rounded-md border border-line bg-sheet p-3">
      <h2 className="mb-1 text-sm">Load a dump</h2>
      <p className="text-soft">
        An LDIF file of one whole domain, as ldapsearch prints it. A domain that is here already is
        replaced whole, edits made here included.
      </p>
      <pre tabIndex={0} className="my-2 overflow-x-auto rounded bg-paper p-2 font-mono text-xs">
        {COMMAND}
      </pre>
      <input
        ref={file}
        id="dump"
        type="file"
        accept=".ldif,.ldf,text/plain"
        className="sr-only"
        tabIndex={-1}
        aria-label="LDIF file"
        onChange={(event) => {
          const field = event.target;
          const chosen = field.files?.[0];
          // The same file may be chosen again.
          if (chosen) start(chosen, { onSettled: () => (field.value = "") });
        }}
      />
      <Button
        key={String(first)}
        autoFocus={first}
        tone="main"
        disabled={sent !== null}
        onClick={() => file.current?.click()}
      >
        Choose a file …
      </Button>
      <div role="status" className="mt-2 min-h-6">
        {sent !== null && `Sending, ${Math.round(sent * 100)} % …`}
      </div>
      <Refusal error={error} also="Nothing was stored." />
      <ul aria-label="Loads">
        {shown.map((job) => (
          <LoadJob key={job.id} job={job} />
        ))}
      </ul>
    </section>
  );
}
