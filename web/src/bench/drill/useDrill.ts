import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { useStrata } from "../../api/domains";
import { playStory } from "../../api/drill";
import { passing } from "../../shared/useAsked";
import { usePaced } from "../../shared/usePaced";

export interface Drilled {
  answer: Schemas["DrillAnswer"] | null;
  /** What was answered is not yet about the story as it stands. */
  stale: boolean;
  error: Error | null;
}

const NOTHING: Drilled = { answer: null, stale: false, error: null };

/** Before it is asked again while the server does not answer, in ms. */
const AGAIN = 2_000;

interface Answered {
  question: string;
  answer: Schemas["DrillAnswer"] | null;
  error: Error | null;
}

/**
 * What becomes of a story in one place; nothing without a place. The last answer stays until the next
 * one is there, and what a later question has overtaken is dropped.
 */
export function useDrill(place: string | null, asked: Schemas["DrillAsked"]): Drilled {
  const [answered, setAnswered] = useState<Answered>({ question: "", answer: null, error: null });
  const [failures, setFailures] = useState(0);
  // Whatever renews the strata of a place may have changed its policies.
  const renewed = useStrata(place ?? "-", "", place !== null).data;
  const question = JSON.stringify(asked);
  const paced = usePaced(question);
  useEffect(() => {
    if (place === null) return;
    const abort = new AbortController();
    playStory(place, JSON.parse(paced) as Schemas["DrillAsked"], abort.signal)
      .then((answer) => setAnswered({ question: paced, answer, error: null }))
      .catch((reason: unknown) => {
        if (abort.signal.aborted) return;
        const error = reason instanceof Error ? reason : new Error("The drill failed.");
        setAnswered({ question: paced, answer: null, error });
        if (passing(error)) again = window.setTimeout(() => setFailures((n) => n + 1), AGAIN);
      });
    let again = 0;
    return () => {
      abort.abort();
      window.clearTimeout(again);
    };
  }, [place, paced, renewed, failures]);
  if (place === null) return NOTHING;
  return {
    answer: answered.answer,
    error: answered.error,
    stale: answered.question !== question,
  };
}
