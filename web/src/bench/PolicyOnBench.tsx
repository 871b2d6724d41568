import { Link } from "react-router";
import { Button } from "../kit/Button";
import { useSamples } from "./useSamples";
import { at } from "../draft/place";
import { May } from "../shared/May";

/**
 * From a policy's own panel: one account of each of its populations onto the bench, the card for
 * people under it, and what guessing costs.
 */
export function PolicyOnBench({
  place,
  guid,
  name,
}: {
  place: string;
  guid: string;
  name: string;
}) {
  const samples = useSamples(place);
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
      <May right="bench" at={place}>
        <Button
          disabled={!samples.ready}
          title="One account from each population that it governs; where it governs nobody, the policy itself"
          onClick={() => samples.addPolicy(guid, name)}
        >
          Put on the bench
        </Button>
        <Link className="underline" to={`/${at(place)}/card?policy=${guid}`}>
          Explain it to people
        </Link>
      </May>
      <Link
        className="underline"
        title="What guessing costs under this policy"
        to={`/${at(place)}/forecast?policy=${guid}`}
      >
        Guessing
      </Link>
    </div>
  );
}
