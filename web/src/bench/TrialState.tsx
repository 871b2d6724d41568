import type { Schemas } from "../api/client";

/** Whether a trial is met where one looks, and live where that is another answer. */
export function TrialState({
  trial,
  drafting,
}: {
  trial: Schemas["TrialInfo"];
  drafting: boolean;
}) {
  if (trial.running) return <span className="text-soft">{trial.said}</span>;
  const tone = trial.met === null ? "text-warn" : trial.met ? "text-pass" : "text-fail";
  return (
    <span className={tone}>
      <span aria-hidden>{trial.met === null ? "?" : trial.met ? "✓" : "✕"} </span>
      <span className="sr-only">
        {trial.met === null ? "cannot be run: " : trial.met ? "met: " : "not met: "}
      </span>
      {trial.said}
      {drafting && trial.met !== trial.met_live && (
        <span className="text-soft"> {trial.met_live ? "Met live." : "Not met live."}</span>
      )}
    </span>
  );
}
