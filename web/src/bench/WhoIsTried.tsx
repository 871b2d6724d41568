import { Popover } from "radix-ui";
import type { Schemas } from "../api/client";
import { Button } from "../kit/Button";
import { Finder } from "../shared/Finder";
import { Drop } from "../kit/Drop";
import { useBench } from "./BenchProvider";
import { useSamples } from "./useSamples";

const FEW = 3;

/**
 * The accounts and policies on the bench, and where more are found. Where there is room for a few
 * they stand side by side.
 */
export function WhoIsTried({ place }: { place: string }) {
  const { accounts, policies, add, remove } = useBench();
  const samples = useSamples(place);
  const pick = (hit: Schemas["Hit"]) => {
    if (hit.kind === "account") add([hit.name]);
    else if (hit.guid) samples.addPolicy(hit.guid, hit.name);
  };
  const laid = [
    ...accounts.map((name) => ({ key: name, label: name })),
    ...policies.map((p) => ({ key: p.guid, label: `anybody under ${p.name}` })),
  ];
  const few = laid.length <= FEW;
  return (
    <>
      {few && laid.length > 0 && (
        <ul aria-label="On the bench" className="flex min-w-0 gap-1 @max-[1000px]:hidden">
          {laid.map((one) => (
            <Chip key={one.key} label={one.label} onRemove={() => remove(one.key)} />
          ))}
        </ul>
      )}
      {laid.length > 0 && (
        <span className={few ? "@min-[1000px]:hidden" : ""}>
          <Drop
            side="top"
            label="On the bench"
            className="w-72"
            trigger={<Button className="rounded-full!">{laid.length} on it</Button>}
          >
            <ul className="space-y-1">
              {laid.map((one) => (
                <Chip key={one.key} label={one.label} onRemove={() => remove(one.key)} />
              ))}
            </ul>
            <Popover.Close asChild>
              <Button className="mt-3">Close</Button>
            </Popover.Close>
          </Drop>
        </span>
      )}
      <div className="w-44 min-w-28 @max-[860px]:w-36 @max-[560px]:flex-1">
        <Finder
          domain={place}
          kinds={["account", "policy"]}
          label="Account or policy to try it on"
          placeholder="+ account"
          upwards
          onPick={pick}
        />
      </div>
    </>
  );
}

function Chip({ label, onRemove }: { label: string; onRemove: () => void }) {
  return (
    <li className="flex max-w-48 min-w-0 items-center rounded-full border border-edge bg-paper pl-2 text-xs">
      <span className="truncate" title={label}>
        {label}
      </span>
      <button
        type="button"
        aria-label={`Take ${label} off the bench`}
        className="ml-auto min-h-6 min-w-6 px-1.5"
        onClick={onRemove}
      >
        ✕
      </button>
    </li>
  );
}
