import type { ReactNode } from "react";
import { Button } from "../shared/controls";
import { useBench } from "./BenchProvider";
import { useSamples } from "./useSamples";

/** Stands where nobody is on the bench yet, with a way to begin. */
export function NobodyYet({ place, children }: { place: string; children: ReactNode }) {
  const { add } = useBench();
  const samples = useSamples(place);
  return (
    <div className="grid flex-1 place-content-center justify-items-center gap-2 py-2 text-center text-soft">
      <p>{children}</p>
      <Button
        onClick={() => add(samples.ofLargest())}
        disabled={!samples.ready}
        className="h-auto! min-h-7 whitespace-normal!"
      >
        Take one account from each of the largest populations
      </Button>
    </div>
  );
}
