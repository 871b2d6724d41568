import { useState } from "react";
import { Button } from "../kit/Button";

const MOST = 5_000;

export interface Sample {
  name: string;
  lines: string[];
  /** Another one each time, so that two lists are never taken for one. */
  turn: number;
}

let turns = 0;

interface Props {
  sample: Sample | null;
  onChoose: (sample: Sample | null) => void;
}

/** Passwords of one's own to hold the rules against. They are sent to be tried and kept nowhere. */
export function SampleChoice({ sample, onChoose }: Props) {
  const [told, setTold] = useState("");
  return (
    <div className="flex flex-wrap items-center gap-x-3 text-xs text-soft">
      <label className="cursor-pointer underline focus-within:outline-2 focus-within:outline-focus">
        Hold them against a list of your own …
        <input
          type="file"
          accept=".txt,text/plain"
          className="sr-only"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (!file) return;
            void file.text().then((text) => {
              const lines = text.split(/\r?\n/).filter(Boolean);
              setTold(
                lines.length > MOST
                  ? `The first ${MOST.toLocaleString("en")} of ${lines.length.toLocaleString("en")} lines are tried.`
                  : "",
              );
              turns += 1;
              const chosen = { name: file.name, lines: lines.slice(0, MOST), turn: turns };
              onChoose(lines.length > 0 ? chosen : null);
            });
          }}
        />
      </label>
      <span>One password a line; it is tried and kept nowhere.</span>
      {sample && (
        <Button size="small" onClick={() => onChoose(null)}>
          Back to typical ones
        </Button>
      )}
      {told && <span>{told}</span>}
    </div>
  );
}
