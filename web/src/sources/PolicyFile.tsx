import { useRef, useState, type DragEvent } from "react";
import { useMay } from "../api/domains";
import { policyFile, usePlanFile, useTakeFile } from "../api/policyFiles";
import { announce } from "../shared/announce";
import { Refusal } from "../kit/Alert";
import { Button, ButtonLink } from "../kit/Button";
import { PartHead } from "../kit/PartHead";
import { hasWork, PolicyPlan, WrongFile } from "./PolicyPlan";
import { WatchedFile } from "./WatchedFile";

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
      <WatchedFile domain={domain} />
      {file && (
        <div role="status" className="mt-2 space-y-1.5">
          {plan.isPending && <p className="text-soft">Reading {file.name} …</p>}
          {plan.error && <WrongFile file={file.name} error={plan.error} />}
          {plan.data && <PolicyPlan file={file.name} plan={plan.data} />}
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
      <Refusal error={take.error} />
    </section>
  );
}
