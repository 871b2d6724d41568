import { Button } from "../shared/controls";

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

/** Stands under a form for as long as something in it is not saved. */
export function SaveBar({ lines = [], sentence, busy, blocked, onDiscard, className = "" }: Props) {
  return (
    <div
      className={`sticky bottom-0 mt-auto border-t border-line bg-warnbg px-4 py-2 ${className}`}
    >
      {lines.length > 0 && (
        <ul aria-label="Changes not yet in the draft" className="mb-2 text-sm">
          {lines.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
      {sentence !== undefined && <p className="mb-2 min-h-[18px] font-medium">{sentence}</p>}
      <div className="flex gap-2">
        <Button tone="main" type="submit" disabled={busy || blocked}>
          {busy ? "Saving …" : "Save to draft"}
        </Button>
        <Button onClick={onDiscard}>Discard</Button>
      </div>
    </div>
  );
}
