import { useEffect, useState } from "react";
import { tryCandidate } from "../api/bench";
import { ApiError, type Schemas } from "../api/client";
import { useStrata } from "../api/domains";
import type { Circumstances } from "./BenchProvider";

export interface Verdicts {
  answer: Schemas["AttemptAnswer"] | null;
  /** The answer is not yet about what stands in the field now. */
  stale: boolean;
  error: Error | null;
}

const NOTHING: Verdicts = { answer: null, stale: false, error: null };

export interface Who {
  accounts: string[];
  policies: string[];
}

interface Answered {
  /** What was asked; lives in memory only, like the candidate itself. */
  question: string;
  answer: Schemas["AttemptAnswer"] | null;
  error: Error | null;
}

/** Waits between tries while the server does not answer, in ms: the last one again and again. */
const WAITS = [1_000, 2_000, 4_000];

/** Whether what went wrong may be right again by itself: then it is asked again. */
export const passing = (error: Error) =>
  error instanceof ApiError && (error.status === 0 || error.status >= 500);

/**
 * The verdicts in one place on what is being typed; none without a place. An answer that a newer
 * keystroke has overtaken is dropped.
 */
export function useVerdicts(
  place: string | null,
  candidate: string,
  circumstances: Circumstances,
  who: Who,
): Verdicts {
  const [answered, setAnswered] = useState<Answered>({ question: "", answer: null, error: null });
  const [failures, setFailures] = useState(0);
  // Whatever renews the strata of a place renews the verdicts.
  const renewed = useStrata(place ?? "-", "", place !== null).data;
  const idle =
    place === null || candidate === "" || who.accounts.length + who.policies.length === 0;
  const question = JSON.stringify({ candidate, ...who, ...sent(circumstances) });
  useEffect(() => {
    if (idle) return;
    const abort = new AbortController();
    tryCandidate(place, JSON.parse(question) as Schemas["Attempt"], abort.signal)
      .then((answer) => {
        setAnswered({ question, answer, error: null });
        setFailures(0);
      })
      .catch((reason: unknown) => {
        if (abort.signal.aborted) return;
        const error = reason instanceof Error ? reason : new Error("The trial failed.");
        setAnswered({ question, answer: null, error });
        if (passing(error))
          again = window.setTimeout(
            () => setFailures((n) => n + 1),
            WAITS[Math.min(failures, WAITS.length - 1)],
          );
      });
    let again = 0;
    return () => {
      abort.abort();
      window.clearTimeout(again);
    };
  }, [place, question, idle, renewed, failures]);
  return idle
    ? NOTHING
    : { answer: answered.answer, error: answered.error, stale: answered.question !== question };
}

function sent({ operation, now, passwordSet, earlier }: Circumstances) {
  const furthest = Math.max(0, ...earlier.filter((e) => e.text !== "").map((e) => e.back));
  const known = new Map(earlier.map((e) => [e.back, e.text]));
  return {
    operation,
    ...(now === "" ? {} : { now }),
    ...(passwordSet === "" ? {} : { password_set: passwordSet }),
    ...(furthest === 0
      ? {}
      : { previous: Array.from({ length: furthest }, (_, n) => known.get(n + 1) || null) }),
  };
}
