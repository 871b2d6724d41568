import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { upload, type Schemas } from "../api/client";
import { useJob } from "../api/queries";
import { Button, Notice } from "../shared/controls";

const COMMAND = "ldapsearch -LLL -E pr=1000/noprompt -b 'DC=…' \\\n  '(objectClass=*)' > dump.ldif";

/** Bring in a dump: upload, then follow the job that reads and stores it. */
export function LoadPanel() {
  const file = useRef<HTMLInputElement>(null);
  const client = useQueryClient();
  const [sent, setSent] = useState<number | null>(null);
  const [failed, setFailed] = useState("");
  const [jobId, setJobId] = useState<string | null>(null);
  const job = useJob(jobId);
  const done = job.data?.state === "done" ? job.data.domain : null;
  const busy = sent !== null || job.data?.state === "running";

  useEffect(() => {
    if (done) void client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "job" });
  }, [done, client]);

  const start = async (chosen: File) => {
    setFailed("");
    setJobId(null);
    setSent(0);
    try {
      const started = await upload<Schemas["JobInfo"]>(`/api/loads?name=${encodeURIComponent(chosen.name)}`, chosen, setSent);
      setJobId(started.id);
    } catch (error) {
      setFailed(error instanceof Error ? error.message : "The upload failed.");
    } finally {
      setSent(null);
      if (file.current) file.current.value = "";
    }
  };

  return (
    <section aria-label="Load a dump" className="rounded-md border border-line bg-sheet p-3">
      <h2 className="mb-1 text-sm">Load a dump</h2>
      <p className="text-soft">
        An LDIF file of one whole domain, as ldapsearch prints it. A domain that is here already is replaced whole, edits made here included.
      </p>
      <pre className="my-2 overflow-x-auto rounded bg-paper p-2 font-mono text-xs">{COMMAND}</pre>
      <input
        ref={file}
        id="dump"
        type="file"
        accept=".ldif,.ldf,text/plain"
        className="sr-only"
        tabIndex={-1}
        aria-label="LDIF file"
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          if (chosen) void start(chosen);
        }}
      />
      <Button tone="main" disabled={busy} onClick={() => file.current?.click()}>
        Choose a file …
      </Button>
      <div role="status" className="mt-2 min-h-6">
        {sent !== null && `Sending, ${Math.round(sent * 100)} % …`}
        {job.data?.state === "running" && `Reading: ${job.data.progress || "starting"} …`}
        {done && (
          <Notice>
            ✓ {done} is loaded.{" "}
            <Link className="underline" to={`/${done}/strata`}>
              See its strata
            </Link>
          </Notice>
        )}
      </div>
      {(failed || job.data?.state === "failed" || job.error) && (
        <Notice tone="fail" role="alert">
          {failed || job.data?.error || job.error?.message} Nothing was stored.
        </Notice>
      )}
    </section>
  );
}
