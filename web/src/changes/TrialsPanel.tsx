import { useTrials } from "../api/bench";
import { useBench } from "../bench/BenchProvider";
import { TrialState } from "../bench/TrialState";
import { Button } from "../kit/Button";

/** What the kept trials say to the draft that is shown; those not met come first. */
export function TrialsPanel({ place }: { place: string }) {
  const trials = useTrials(place);
  const { setFace, setOpen } = useBench();
  if (!trials.data || trials.data.trials.length === 0) return null;
  const { unmet, running, required } = trials.data;
  const met = trials.data.trials.length - unmet - running;
  return (
    <section aria-label="Trials" className="space-y-1 border-t border-line pt-2">
      <div className="flex items-center justify-between">
        <h2 className="text-sm">Trials</h2>
        <Button
          tone="quiet"
          onClick={() => {
            setFace("trials");
            setOpen(true);
          }}
        >
          Show all
        </Button>
      </div>
      {met > 0 && (
        <p className="text-pass">
          ✓ {met} of {trials.data.trials.length} met
        </p>
      )}
      <ul className="space-y-1">
        {trials.data.trials
          .filter((t) => !t.met)
          .map((trial) => (
            <li key={trial.id}>
              <p className="font-medium">{trial.title}</p>
              <TrialState trial={trial} drafting />
            </li>
          ))}
      </ul>
      {unmet > 0 && !required && (
        <p className="text-xs text-soft">
          Publishing does not wait for them; the bench can make it.
        </p>
      )}
    </section>
  );
}
