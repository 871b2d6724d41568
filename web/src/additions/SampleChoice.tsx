import { useState } from "react";
import { Button } from "../shared/controls";

const MOST = 5_000;

interface Props {
  sample: { name: string; lines: string[] } | null;
  onChoose: (sample: { name: string; lines: string[] } | null) => void;
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
              onChoose(lines.length > 0 ? { name: file.name, lines: lines.slice(0, MOST) } : null);
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
