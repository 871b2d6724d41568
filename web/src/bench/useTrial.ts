import { useEffect, useState } from "react";
import type { Schemas } from "../api/client";
import { tryCandidate } from "../api/queries";

interface Trial {
  answer: Schemas["TrialAnswer"] | null;
  error: Error | null;
}

/** The verdict on what is being typed. An answer that a newer keystroke has overtaken is dropped. */
export function useTrial(domain: string, candidate: string, operation: "change" | "reset", accounts: string[], previous: string[] | null, renewed: unknown): Trial {
  const [trial, setTrial] = useState<Trial>({ answer: null, error: null });
  const names = accounts.join("\n");
  const earlier = previous === null ? null : JSON.stringify(previous);
  useEffect(() => {
    if (names === "" || candidate === "") return;
    const abort = new AbortController();
    const body = {
      candidate,
      operation,
      accounts: names.split("\n"),
      ...(earlier === null ? {} : { previous: JSON.parse(earlier) as string[] }),
    };
    tryCandidate(domain, body, abort.signal)
      .then((answer) => setTrial({ answer, error: null }))
      .catch((error: unknown) => {
        if (!abort.signal.aborted) setTrial({ answer: null, error: error instanceof Error ? error : new Error("The trial failed.") });
      });
    return () => abort.abort();
  }, [domain, candidate, operation, names, earlier, renewed]);
  return names === "" || candidate === "" ? { answer: null, error: null } : trial;
}
