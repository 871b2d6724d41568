import { useEffect, useState } from "react";
import { tryCandidate } from "../api/bench";
import type { Schemas } from "../api/client";
import { useStrata } from "../api/queries";
import type { Circumstances } from "./BenchProvider";

export interface Verdicts {
  answer: Schemas["AttemptAnswer"] | null;
  error: Error | null;
}

const NOTHING: Verdicts = { answer: null, error: null };

export interface Who {
  accounts: string[];
  policies: string[];
}

/** The verdicts in one place on what is being typed; none without a place. An answer that a newer keystroke has overtaken is dropped. */
export function useVerdicts(place: string | null, candidate: string, circumstances: Circumstances, who: Who): Verdicts {
  const [verdicts, setVerdicts] = useState(NOTHING);
  // Whatever renews the strata of a place renews the verdicts.
  const renewed = useStrata(place ?? "-", "", place !== null).data;
  const idle = place === null || candidate === "" || who.accounts.length + who.policies.length === 0;
  const asked = JSON.stringify({ ...who, ...sent(circumstances) });
  useEffect(() => {
    if (idle) return;
    const abort = new AbortController();
    tryCandidate(place, { candidate, ...(JSON.parse(asked) as Omit<Schemas["Attempt"], "candidate">) }, abort.signal)
      .then((answer) => setVerdicts({ answer, error: null }))
      .catch((error: unknown) => {
        if (!abort.signal.aborted) setVerdicts({ answer: null, error: error instanceof Error ? error : new Error("The trial failed.") });
      });
    return () => abort.abort();
  }, [place, candidate, asked, idle, renewed]);
  return idle ? NOTHING : verdicts;
}

function sent({ operation, now, passwordSet, earlier }: Circumstances) {
  const furthest = Math.max(0, ...earlier.filter((e) => e.text !== "").map((e) => e.back));
  const known = new Map(earlier.map((e) => [e.back, e.text]));
  return {
    operation,
    ...(now === "" ? {} : { now: new Date(now).toISOString() }),
    ...(passwordSet === "" ? {} : { password_set: new Date(passwordSet).toISOString() }),
    ...(furthest === 0 ? {} : { previous: Array.from({ length: furthest }, (_, n) => known.get(n + 1) || null) }),
  };
}
