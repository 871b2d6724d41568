import type { RefObject } from "react";
import { useBench, useCandidate } from "./BenchProvider";

/** Where a candidate is typed, shown or hidden. */
export function CandidateField({
  inputRef,
  length,
  stale,
  onEnter,
}: {
  inputRef: RefObject<HTMLInputElement | null>;
  length: number | null;
  stale: boolean;
  /** Enter: what is typed is to be judged. */
  onEnter: () => void;
}) {
  const { setCandidate, shown, setShown } = useBench();
  const candidate = useCandidate();
  return (
    <form
      className="relative shrink-0"
      onSubmit={(event) => {
        event.preventDefault();
        onEnter();
      }}
    >
      <input
        id="candidate"
        aria-label="Candidate password"
        ref={inputRef}
        type={shown ? "text" : "password"}
        value={candidate}
        autoComplete="off"
        autoCorrect="off"
        autoCapitalize="off"
        spellCheck={false}
        maxLength={4000}
        placeholder="Candidate"
        className="h-7 w-full rounded-[5px] border border-ink px-2 pr-16 font-mono text-sm"
        onChange={(event) => setCandidate(event.target.value)}
        onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
      />
      <span className="absolute top-0.5 right-1 flex items-center gap-1 text-xs text-soft">
        <span
          className={`font-mono transition-opacity duration-150 ${stale ? "opacity-20" : ""}`}
          aria-hidden={stale}
          title="Characters as the directory counts them"
        >
          {length ?? ""}
        </span>
        <button
          type="button"
          className="h-6 rounded px-1 underline"
          aria-pressed={!shown}
          onClick={() => setShown(!shown)}
        >
          {shown ? "hide" : "show"}
        </button>
      </span>
    </form>
  );
}
