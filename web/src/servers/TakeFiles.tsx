import { useRef, type ReactNode } from "react";
import type { ServerFile } from "../api/servers";
import { Alert } from "../kit/Alert";
import { Button } from "../kit/Button";
import { plural } from "../shared/span";
import { templatesOf, twice } from "./files";
import type { useTaking } from "./useTaking";

const CHOOSE = "cursor-pointer underline focus-within:outline-2 focus-within:outline-focus";

interface Props {
  onChosen: (files: ServerFile[]) => void;
  disabled: boolean;
}

/** Templates chosen one by one or as a whole folder. */
export function ChooseFiles({ onChosen, disabled }: Props) {
  const folder = useRef<HTMLInputElement>(null);
  const chosen = (input: HTMLInputElement) => {
    onChosen(templatesOf(input.files ?? []));
    // The same ones may be chosen again.
    input.value = "";
  };
  return (
    <>
      <label className={CHOOSE}>
        Read files …
        <input
          type="file"
          multiple
          accept=".inf"
          className="sr-only"
          disabled={disabled}
          aria-label="Templates of servers"
          onChange={(event) => chosen(event.target)}
        />
      </label>
      <label className={CHOOSE}>
        Read a folder …
        <input
          ref={(input) => {
            folder.current = input;
            input?.setAttribute("webkitdirectory", "");
          }}
          type="file"
          className="sr-only"
          disabled={disabled}
          aria-label="Folder of servers’ templates"
          onChange={(event) => chosen(event.target)}
        />
      </label>
    </>
  );
}

/** How far files are that are being read, what came of them, and a way to go on if it was cut off. */
export function TakingLine({
  of: { taking, busy, goOn, forget },
}: {
  of: ReturnType<typeof useTaking>;
}) {
  if (!taking) return null;
  const { taken, of, error, rest } = taking;
  const wrong = taken.filter((one) => one.problem);
  const double = twice(taken);
  let said: ReactNode;
  if (of === 0) said = "None of these is a template: their names end in .inf. Nothing was read.";
  else if (busy)
    said = (
      <>
        Reading {taken.length} of {of}{" "}
        <progress
          className="ml-1 w-40 align-middle"
          max={of}
          value={taken.length}
          aria-label="Files read"
        />
      </>
    );
  else
    said = (
      <>
        {error
          ? `△ ${error.message} ${plural(rest.length, "file")} of ${of} still to be read.`
          : `✓ ${plural(taken.length, "file")} read.`}
        {wrong.length > 0 &&
          ` ${wrong.length === 1 ? `${wrong[0]?.name ?? ""} is` : `${wrong.length} of them are`} no readable template; what is wrong stands with it.`}
        {double.length > 0 &&
          ` There was more than one file for ${double.join(", ")}: the last one counts.`}
      </>
    );
  return (
    <Alert role="status" tone={error || of === 0 || wrong.length > 0 ? "warn" : "plain"}>
      {said}
      {!busy && (
        <span className="ml-2 inline-flex gap-2 align-middle">
          {error && (
            <Button size="small" tone="main" onClick={goOn}>
              Go on
            </Button>
          )}
          <Button size="small" onClick={forget}>
            Close
          </Button>
        </span>
      )}
    </Alert>
  );
}
