import { useRef, useState, type DragEvent } from "react";
import { ApiError, type Schemas } from "../api/client";
import { useMay } from "../api/domains";
import { policyFile, usePlanFile, useTakeFile } from "../api/policyFiles";
import { announce } from "../shared/announce";
import { Button, ButtonLink, Notice, Refused } from "../shared/controls";
import { SaidLine } from "../shared/SaidLine";
import { PartHead } from "../shared/PartHead";
import { plural } from "../shared/span";

const MOST_SHOWN = 200;

/** All policies of a domain as text: handed out, and held against live when one is given back. */
export function PolicyFile({ domain }: { domain: string }) {
  const field = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  const [over, setOver] = useState(false);
  const plan = usePlanFile(domain);
  const take = useTakeFile(domain);
  const may = useMay(domain);
  const begin = (chosen: File | undefined) => {
    if (!chosen || take.isPending) return;
    setFile(chosen);
    take.reset();
    plan.mutate(chosen);
  };
  const forget = () => {
    setFile(null);
    plan.reset();
    take.reset();
    field.current?.focus();
  };
  const dropped = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    begin(event.dataTransfer.files[0]);
  };
  return (
    <section
      aria-label="Policies as a file"
      className={`mt-2 ${over ? "bg-hover" : ""}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={dropped}
    >
      <PartHead level={4}>Policies as a file</PartHead>
      <p className="text-soft">
        All policies and trials as text (YAML), to be reviewed and kept with their history. A file
        given back is held against live first; nothing changes before a draft is published.
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <ButtonLink size="small" href={policyFile(domain)} download>
          Download it
        </ButtonLink>
        <label className="cursor-pointer text-sm underline focus-within:outline-2 focus-within:outline-focus">
          Hold a file against live …
          <input
            ref={field}
            type="file"
            accept=".yaml,.yml,.json,application/yaml,application/json,text/plain"
            className="sr-only"
            aria-label={`Policy file of ${domain}`}
            onChange={(event) => {
              begin(event.target.files?.[0]);
              // The same file may be chosen again.
              event.target.value = "";
            }}
          />
        </label>
        <span className="text-xs text-soft">or drop one here</span>
      </div>
      {file && (
        <div role="status" className="mt-2 space-y-1.5">
          {plan.isPending && <p className="text-soft">Reading {file.name} …</p>}
          {plan.error && <Wrong file={file.name} error={plan.error} />}
          {plan.data && <Plan file={file.name} plan={plan.data} />}
        </div>
      )}
      {plan.data && file && (
        <div className="mt-1.5 flex flex-wrap gap-2">
          {hasWork(plan.data) && may("draft") && (
            <Button
              tone="main"
              disabled={take.isPending}
              onClick={() =>
                take.mutate(file, {
                  onSuccess: ({ draft }) => {
                    announce(draft ? "The draft is open." : "The trials are kept.");
                    if (!draft) forget();
                  },
                })
              }
            >
              {plan.data.changes.length > 0 ? "Make a draft of it" : "Keep the trials"}
            </Button>
          )}
          <Button onClick={forget}>Forget it</Button>
        </div>
      )}
      <Refused error={take.error} />
    </section>
  );
}

const hasWork = (plan: Schemas["PolicyFilePlan"]) => plan.changes.length > 0 || plan.new_trials > 0;

/** All that is wrong with a file, with its places. */
function Wrong({ file, error }: { file: string; error: Error }) {
  const fields = error instanceof ApiError ? error.fields : [];
  if (fields.length === 0) return <Refused error={error} />;
  return (
    <Notice tone="fail">
      <p>
        ✕ {file} cannot be taken: {plural(fields.length, "thing")}{" "}
        {fields.length === 1 ? "is" : "are"} wrong.
      </p>
      <ol tabIndex={0} aria-label="What is wrong" className="mt-1 max-h-60 overflow-y-auto">
        {fields.slice(0, MOST_SHOWN).map(({ field, message }) => (
          <li key={field + message} className="break-words">
            <span className="font-mono text-xs">{field}</span> {message}
          </li>
        ))}
        {fields.length > MOST_SHOWN && <li>and {fields.length - MOST_SHOWN} more</li>}
      </ol>
    </Notice>
  );
}

/** What a file would change of live. */
function Plan({ file, plan }: { file: string; plan: Schemas["PolicyFilePlan"] }) {
  const { changes, new_trials } = plan;
  if (!hasWork(plan))
    return <p className="text-pass">✓ Nothing to change: live is as {file} has it.</p>;
  return (
    <>
      <p>
        {file} wants {plural(changes.length, "change")} of live
        {new_trials > 0 && ` and brings ${plural(new_trials, "new trial")}`}.
      </p>
      <div
        role="group"
        tabIndex={0}
        aria-label="What it changes"
        className="max-h-60 overflow-y-auto border-t border-line/60 break-words"
      >
        <SaidLine said={changes.slice(0, MOST_SHOWN)} />
        {changes.length > MOST_SHOWN && <p>and {changes.length - MOST_SHOWN} more</p>}
      </div>
    </>
  );
}
