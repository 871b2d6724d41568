import { Button } from "./Button";
import { plural } from "../shared/span";
import { BottomBar } from "./BottomBar";

interface Props {
  /** What is not saved, in sentences. */
  lines?: string[];
  /** What it would do. */
  sentence?: string;
  busy: boolean;
  blocked: boolean;
  onDiscard: () => void;
  className?: string;
}

/** Stands under a form for as long as something in it is not saved; one line in a short window. */
export function SaveBar({ lines = [], sentence, busy, blocked, onDiscard, className = "" }: Props) {
  return (
    <BottomBar
      className={`bg-warnbg py-2 short:flex short:flex-wrap short:items-center short:gap-x-3 short:py-1 ${className}`}
    >
      {lines.length > 0 && (
        <>
          <ul aria-label="Changes not yet in the draft" className="mb-2 text-sm short:sr-only">
            {lines.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
          <span aria-hidden className="hidden text-sm short:inline" title={lines.join("\n")}>
            {plural(lines.length, "change")}
          </span>
        </>
      )}
      {sentence !== undefined && (
        <p className="mb-2 min-h-[18px] font-medium short:mb-0">{sentence}</p>
      )}
      <div className="flex gap-2 short:ml-auto">
        <Button tone="main" type="submit" disabled={busy || blocked}>
          {busy ? "Saving …" : "Save to draft"}
        </Button>
        <Button onClick={onDiscard}>Discard</Button>
      </div>
    </BottomBar>
  );
}
