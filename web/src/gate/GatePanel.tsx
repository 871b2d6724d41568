import { useGate } from "../api/gate";
import { PanelHead } from "../editor/PanelHead";
import { Failed, Loading } from "../shared/controls";
import { Callers } from "./Callers";
import { LifetimesPart } from "./LifetimesPart";
import { Answers } from "./Answers";

/** The gate of a domain: who asks there, whose password ends when, and what came of questions. */
export function GatePanel({ domain, onClose }: { domain: string; onClose: () => void }) {
  const gate = useGate(domain);
  return (
    <div>
      <PanelHead title="Gate" detail={domain} onClose={onClose} />
      <div className="space-y-4 px-4 pb-4">
        <p className="text-xs text-soft">
          Where somebody asks Hornfels whether a password may be set, what policies ask besides
          holds for it. Candidates are judged and forgotten.
        </p>
        {gate.isPending ? (
          <Loading what="the gate" />
        ) : gate.error ? (
          <Failed error={gate.error} retry={() => void gate.refetch()} />
        ) : (
          <>
            <Callers domain={domain} callers={gate.data.callers} />
            <LifetimesPart domain={domain} lifetimes={gate.data.lifetimes} />
            <Answers domain={domain} />
          </>
        )}
      </div>
    </div>
  );
}
