import { useStrata } from "../api/domains";
import { useBench, MOST_COLUMNS, type Nobody } from "./BenchProvider";

const DOMAIN_POLICY: Nobody = { guid: "domain", name: "the domain policy" };

/** Lays every policy of a domain on the bench, by precedence, as far as the bench has columns. */
export function useEveryPolicy(place: string) {
  const strata = useStrata(place);
  const { accounts, policies, layPolicies } = useBench();
  const layers = strata.data?.layers ?? [];
  const shown = Math.min(layers.length, MOST_COLUMNS - 1);
  return {
    /** Which policies get a column, in words. */
    which:
      shown < layers.length
        ? `the first ${shown} of ${layers.length.toLocaleString("en")} policies and the domain policy`
        : "every policy",
    /** Whether these lie on the bench, and the domain has more. */
    isCut: shown < layers.length && accounts.length === 0 && policies.length === MOST_COLUMNS,
    lay: async () => {
      const data = strata.data ?? (await strata.refetch()).data;
      if (!data) return;
      layPolicies([
        ...data.layers.slice(0, MOST_COLUMNS - 1).map(({ guid, name }) => ({ guid, name })),
        DOMAIN_POLICY,
      ]);
    },
  };
}
