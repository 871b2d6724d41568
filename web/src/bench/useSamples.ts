import { useStrata } from "../api/domains";
import { useBench } from "./BenchProvider";

const MOST = 4;

/** Accounts to put on the bench, chosen by the populations that the server lists. */
export function useSamples(place: string) {
  const strata = useStrata(place);
  const { add } = useBench();
  const populations = [...(strata.data?.populations ?? [])].sort((a, b) => b.count - a.count);
  return {
    ready: strata.data !== undefined,
    /** One account of the largest population of each of the policies that govern most. */
    ofLargest: () => {
      const seen = new Set<string | null>();
      return populations
        .filter((p) => p.source !== "exempt" && !seen.has(p.winner) && seen.add(p.winner))
        .slice(0, 3)
        .map((p) => p.sample);
    },
    /**
     * One account from each population that a policy governs; where it governs nobody, anybody
     * under it. "domain" is the domain policy.
     */
    addPolicy: (guid: string, name: string) => {
      const found = populations.filter((p) => p.winner === guid).slice(0, MOST);
      if (found.length > 0) add(found.map((p) => p.sample));
      else add([], { guid, name });
    },
  };
}
