import { tryCandidate } from "../api/bench";
import type { Schemas } from "../api/client";
import { useStrata } from "../api/domains";
import { useAsked, type Asked } from "../shared/useAsked";
import type { Circumstances } from "./BenchProvider";

export type Verdicts = Asked<Schemas["AttemptAnswer"]>;

export interface Who {
  accounts: string[];
  policies: string[];
}

interface Question {
  place: string;
  body: Schemas["Attempt"];
}

const ask = (question: string, signal: AbortSignal) => {
  const { place, body } = JSON.parse(question) as Question;
  return tryCandidate(place, body, signal);
};

/** The verdicts in one place on what is being typed; none without a place. */
export function useVerdicts(
  place: string | null,
  candidate: string,
  circumstances: Circumstances,
  who: Who,
): Verdicts {
  // Whatever renews the strata of a place renews the verdicts.
  const renewed = useStrata(place ?? "-", "", place !== null).data;
  const nobody = who.accounts.length + who.policies.length === 0;
  const body = { candidate, ...who, ...sent(circumstances) };
  const question =
    place === null || candidate === "" || nobody ? null : JSON.stringify({ place, body });
  return useAsked(question, ask, renewed);
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
