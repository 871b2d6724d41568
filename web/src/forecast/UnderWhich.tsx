import { useStrata } from "../api/domains";
import { Select } from "../kit/inputs";
import { useUrlState } from "../shared/useUrlState";

/** Which policy a forecast is about. */
export function UnderWhich({ domain }: { domain: string }) {
  const [policy, setPolicy] = useUrlState("policy");
  const strata = useStrata(domain);
  return (
    <label className="flex min-w-0 items-center gap-1.5">
      <span className="shrink-0 text-soft">under</span>
      <Select value={policy || "domain"} onChange={(event) => setPolicy(event.target.value)}>
        <option value="domain">Domain policy</option>
        {strata.data?.layers.map((layer) => (
          <option key={layer.guid} value={layer.guid}>
            {layer.name}
          </option>
        ))}
      </Select>
    </label>
  );
}
