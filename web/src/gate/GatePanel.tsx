import { useCallers, useLifetimes } from "../api/gate";
import { PanelHead } from "../kit/PanelHead";
import { Failure, Loading } from "../kit/Loading";
import { Callers } from "./Callers";
import { LifetimesPart } from "./LifetimesPart";
import { Answers } from "./Answers";

/** The gate of a domain: who asks there, whose password ends when, and what came of questions. */
export function GatePanel({ domain, onClose }: { domain: string; onClose: () => void }) {
  const callers = useCallers(domain);
  const lifetimes = useLifetimes(domain);
  const error = callers.error ?? lifetimes.error;
  return (
    <div>
      <PanelHead title="Gate" detail={domain} onClose={onClose} />
      <div className="space-y-4 px-4 pb-4">
        <p className="text-xs text-soft">
          Where somebody asks Hornfels whether a password may be set, what policies ask besides
          holds for it. Candidates are judged and forgotten.
        </p>
        {callers.data && lifetimes.data ? (
          <>
            <Callers domain={domain} callers={callers.data} />
            <LifetimesPart domain={domain} lifetimes={lifetimes.data} />
            <Answers domain={domain} />
          </>
        ) : error ? (
          <Failure
            error={error}
            retry={() => {
              void callers.refetch();
              void lifetimes.refetch();
            }}
          />
        ) : (
          <Loading what="the gate" />
        )}
      </div>
    </div>
  );
}
