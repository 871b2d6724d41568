import type { Schemas } from "../api/client";
import { Finder } from "../shared/Finder";
import { useBench } from "./BenchProvider";
import { useSamples } from "./useSamples";

/** The accounts and policies on the bench, and where more are found. */
export function WhoIsTried({ place }: { place: string }) {
  const { accounts, policies, add, remove } = useBench();
  const samples = useSamples(place);
  const pick = (hit: Schemas["Hit"]) => {
    if (hit.kind === "account") add([hit.name]);
    else if (hit.guid) samples.addPolicy(hit.guid, hit.name);
  };
  return (
    <>
      <div className="flex flex-wrap gap-1">
        {accounts.map((name) => (
          <Chip key={name} label={name} onRemove={() => remove(name)} />
        ))}
        {policies.map((policy) => (
          <Chip key={policy.guid} label={`anybody under ${policy.name}`} onRemove={() => remove(policy.guid)} />
        ))}
      </div>
      <Finder
        domain={place}
        kinds={["account", "policy"]}
        label="Account or policy to try it on"
        placeholder="+ account or policy"
        upwards
        onPick={pick}
      />
    </>
  );
}

function Chip({ label, onRemove }: { label: string; onRemove: () => void }) {
  return (
    <span className="flex max-w-full items-center rounded-full border border-edge bg-paper pl-2 text-xs">
      <span className="truncate">{label}</span>
      <button type="button" aria-label={`Take ${label} off the bench`} className="min-w-6 px-1.5 py-0.5" onClick={onRemove}>
        ✕
      </button>
    </span>
  );
}
