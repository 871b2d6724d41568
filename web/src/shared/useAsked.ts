import { useEffect, useState } from "react";
import { ApiError } from "../api/client";

export interface Asked<A> {
  answer: A | null;
  /** The answer is not yet about what is asked now. */
  stale: boolean;
  error: Error | null;
}

interface Answered<A> {
  /** What was asked; lives in memory only, for a candidate may stand in it. */
  question: string | null;
  answer: A | null;
  error: Error | null;
}

/** Waits between tries while the server does not answer, in ms: the last one again and again. */
const WAITS = [1_000, 2_000, 4_000];

/** Whether what went wrong may be right again by itself: then it is asked again. */
export const passing = (error: Error) =>
  error instanceof ApiError && (error.status === 0 || error.status >= 500);

/**
 * What the server answers to a question that changes as somebody types; none is null. `ask` is the
 * same function always. An answer that a newer keystroke has overtaken is dropped; what is renewed
 * has the question asked once more.
 */
export function useAsked<A>(
  question: string | null,
  ask: (question: string, signal: AbortSignal) => Promise<A>,
  renewed?: unknown,
): Asked<A> {
  const [answered, setAnswered] = useState<Answered<A>>({
    question: null,
    answer: null,
    error: null,
  });
  const [failures, setFailures] = useState(0);
  useEffect(() => {
    if (question === null) return;
    const abort = new AbortController();
    ask(question, abort.signal)
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
  }, [question, ask, renewed, failures]);
  return question === null
    ? { answer: null, error: null, stale: false }
    : { answer: answered.answer, error: answered.error, stale: answered.question !== question };
}
