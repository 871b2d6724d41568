import { templateFile, type usePreview } from "../api/publications";
import type { Schemas } from "../api/client";
import { Alert } from "../kit/Alert";
import { ButtonLink } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { plural } from "../shared/span";
import { SaidLine } from "../shared/SaidLine";

type Preview = ReturnType<typeof usePreview>;

/** How many steps the directory would refuse. */
export const hinderedSteps = (preview: Preview["data"]) =>
  preview?.steps.filter((step) => step.problem).length ?? 0;

/** What publishing would write into the directory, step by step, before anything is written. */
export function PreviewPart({ place, preview }: { place: string; preview: Preview }) {
  if (preview.isPending) return <Loading what="the directory" />;
  if (preview.error) return <Failure error={preview.error} retry={() => void preview.refetch()} />;
  const { server, problem, steps, astray, templates, written_to } = preview.data;
  const hindered = hinderedSteps(preview.data);
  return (
    <div className="space-y-1.5">
      {problem ? (
        <Alert tone="fail">✕ The directory cannot be asked: {problem}</Alert>
      ) : server === "" ? (
        <p className="text-soft">
          Publishing does not write into the directory (Sources): it is live here then, and the LDIF
          file carries it there.
        </p>
      ) : hindered > 0 ? (
        <Alert tone="fail">
          ✕ {plural(hindered, "step")} of {steps.length} would be refused at {server}. Read the
          directory (Sources), and look at the draft again.
        </Alert>
      ) : (
        <p>
          {plural(steps.length, "step")} at {server}, one after another. Each is compared with what
          the draft was made on, and read back.
        </p>
      )}
      {astray > 0 && (
        <Alert tone="warn">
          △ In no order of the steps do all keep clear of other policies:{" "}
          {plural(astray, "account")} {astray === 1 ? "has" : "have"} a third one for a moment.
        </Alert>
      )}
      {written_to !== null && (
        <p>
          {written_to === 0
            ? "Nobody gets a letter about it."
            : `${written_to === 1 ? "1 person gets" : `${written_to.toLocaleString("en")} people get`} a letter that other rules hold, within a quarter of an hour outside the quiet hours.`}
        </p>
      )}
      <ol className="max-h-60 overflow-y-auto border-t border-line/60" aria-label="Steps">
        {steps.map((step, number) => (
          <li key={number} className="border-b border-line/60 py-0.5">
            <PreviewStep step={step} />
          </li>
        ))}
      </ol>
      {templates.map((one) => (
        <div key={one.gpo} className="border-l-[3px] border-warn bg-warnbg px-2.5 py-1">
          <p>
            △ The template of {one.name} is a file: put it where it belongs by hand, at{" "}
            <span className="break-all">{one.place}</span>.
          </p>
          <ButtonLink size="small" href={templateFile(place, one.gpo)} download>
            The file as the draft has it
          </ButtonLink>
        </div>
      ))}
    </div>
  );
}

function PreviewStep({ step }: { step: Schemas["PreviewStep"] }) {
  return (
    <details className="group">
      <summary className="flex cursor-pointer list-none gap-1.5">
        <span aria-hidden className="group-open:rotate-90">
          ▸
        </span>
        <span className="min-w-0">
          <SaidLine said={step.said} />
          {step.done && (
            <span className="block text-pass">✓ It is so in the directory already.</span>
          )}
          {step.problem && <span className="block text-fail">✕ {step.problem}</span>}
        </span>
      </summary>
      <pre
        tabIndex={0}
        className="my-1 max-h-48 overflow-auto border border-line bg-white p-1.5 font-mono text-xs"
      >
        {step.ldif.length > 0 ? step.ldif.join("\n") : "Nothing is sent."}
      </pre>
    </details>
  );
}
