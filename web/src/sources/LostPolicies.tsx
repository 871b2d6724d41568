import { useLostPolicies, useRestoreLost } from "../api/lostPolicies";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { May } from "../shared/May";
import { dayText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";

/** Policies that have come back with another GUID: are they the policies that were lost? */
export function LostPolicies({ domain }: { domain: string }) {
  const lost = useLostPolicies(domain).data ?? [];
  const restore = useRestoreLost(domain);
  if (lost.length === 0 && !restore.error) return null;
  return (
    <section aria-label="Lost policies" className="mt-2">
      <PartHead level={4}>Lost policies</PartHead>
      <ul>
        {lost.map((one) => (
          <li key={one.guid} className="border-b border-line/60 py-1">
            <p>
              A policy “{one.name}” was lost on {dayText(one.lost_at)}. A policy of this name with
              another GUID is here now. The lost policy had{" "}
              {one.additional_rules.length > 0
                ? `these additional rules: ${one.additional_rules.join("; ")}`
                : "no additional rules"}
              {one.guarded ? ", and a guard against deletion." : "."}
            </p>
            <May right="load" at={domain}>
              <Button size="small" disabled={restore.isPending} onClick={() => restore.mutate(one)}>
                Restore rules and guard
              </Button>
            </May>
          </li>
        ))}
      </ul>
      <Refusal error={restore.error} />
    </section>
  );
}
