import { ApiError, type Schemas } from "../api/client";
import { Alert, Refusal } from "../kit/Alert";
import { SaidLine } from "../shared/SaidLine";
import { plural } from "../shared/span";

const MOST_SHOWN = 200;

export const hasWork = (plan: Schemas["PolicyFilePlan"]) =>
  plan.changes.length > 0 || plan.new_trials > 0;

/** All that is wrong with a file, with its places. */
export function WrongFile({ file, error }: { file: string; error: Error }) {
  const fields = error instanceof ApiError ? error.fields : [];
  if (fields.length === 0) return <Refusal error={error} />;
  return (
    <WrongList
      file={file}
      wrong={fields.map(({ field, message }) => ({ place: field, message }))}
    />
  );
}

export function WrongList({ file, wrong }: { file: string; wrong: Schemas["FileProblem"][] }) {
  return (
    <Alert tone="fail">
      <p>
        ✕ {file} cannot be taken: {plural(wrong.length, "thing")}{" "}
        {wrong.length === 1 ? "is" : "are"} wrong.
      </p>
      <ol tabIndex={0} aria-label="What is wrong" className="mt-1 max-h-60 overflow-y-auto">
        {wrong.slice(0, MOST_SHOWN).map(({ place, message }) => (
          <li key={place + message} className="break-words">
            <span className="font-mono text-xs">{place}</span> {message}
          </li>
        ))}
        {wrong.length > MOST_SHOWN && <li>and {wrong.length - MOST_SHOWN} more</li>}
      </ol>
    </Alert>
  );
}

/** What a file would change of live. */
export function PolicyPlan({ file, plan }: { file: string; plan: Schemas["PolicyFilePlan"] }) {
  const { changes, new_trials } = plan;
  if (!hasWork(plan))
    return <p className="text-pass">✓ Nothing to change: live is as {file} has it.</p>;
  return (
    <>
      <p>
        {file} wants {plural(changes.length, "change")} of live
        {new_trials > 0 && ` and brings ${plural(new_trials, "new trial")}`}.
      </p>
      <div
        role="group"
        tabIndex={0}
        aria-label="What it changes"
        className="max-h-60 overflow-y-auto border-t border-line/60 break-words"
      >
        <SaidLine said={changes.slice(0, MOST_SHOWN)} />
        {changes.length > MOST_SHOWN && <p>and {changes.length - MOST_SHOWN} more</p>}
      </div>
    </>
  );
}
