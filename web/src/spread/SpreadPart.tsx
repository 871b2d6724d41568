import { useMay } from "../api/domains";
import { useSpreads } from "../api/spreads";
import { draftOf } from "../draft/place";
import { Button } from "../kit/Button";
import { Failure } from "../kit/Loading";
import { PartHead } from "../kit/PartHead";
import { useUrlState } from "../shared/useUrlState";
import { Planning } from "./Planning";
import { UnderWay } from "./UnderWay";

/** A shorter maximum age that is brought in over weeks: planned, or how far it is. */
export function SpreadPart({ place }: { place: string }) {
  const spreads = useSpreads(place);
  const [weeks, setWeeks] = useUrlState("weeks");
  const may = useMay(place)("settings");
  const [latest] = spreads.data ?? [];
  const running = latest?.state === "running";
  const draft = draftOf(place);
  const drafted = draft !== null;
  if (!drafted && !running) return null;
  // What became of this draft's; another's only while it keeps this one from being begun.
  const shown = running || (latest?.draft === draft && !weeks);
  return (
    <section aria-label="Spread over weeks" className="space-y-1">
      <PartHead level={2}>Spread over weeks</PartHead>
      {spreads.error && <Failure error={spreads.error} retry={() => void spreads.refetch()} />}
      {latest && shown && <UnderWay place={place} spread={latest} may={may} />}
      {drafted &&
        spreads.data &&
        !running &&
        (weeks ? (
          <Planning
            place={place}
            weeks={weeks}
            may={may}
            onWeeks={setWeeks}
            onClose={() => setWeeks("")}
          />
        ) : (
          <>
            <p className="text-soft">
              Where a draft has passwords end sooner, those who would end at once can be told to
              choose another one week by week before it is published.
            </p>
            <Button onClick={() => setWeeks("6")}>Plan it …</Button>
          </>
        ))}
    </section>
  );
}
