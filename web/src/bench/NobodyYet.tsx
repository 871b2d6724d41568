import type { ReactNode } from "react";
import { Button } from "../kit/Button";
import { useBench } from "./BenchProvider";
import { useEveryPolicy } from "./useEveryPolicy";
import { useSamples } from "./useSamples";

/** Stands where nobody is on the bench yet, with a way to begin. */
export function NobodyYet({
  place,
  policies = false,
  children,
}: {
  place: string;
  /** Whether policies can be tried without an account. */
  policies?: boolean;
  children: ReactNode;
}) {
  const { add } = useBench();
  const samples = useSamples(place);
  const every = useEveryPolicy(place);
  return (
    <div className="grid flex-1 place-content-center justify-items-center gap-2 py-2 text-center text-soft">
      <p>{children}</p>
      {policies && (
        <Button
          onClick={() => void every.lay()}
          disabled={!samples.ready}
          className="h-auto! min-h-7 whitespace-normal!"
        >
          Try {every.which}
        </Button>
      )}
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
