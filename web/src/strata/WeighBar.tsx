import type { Schemas } from "../api/client";
import { Button, Kbd } from "../kit/Button";

interface Props {
  answer: Schemas["WhatIfAnswer"] | undefined;
  error: Error | null;
  busy: boolean;
  /** Left out for whoever may not take it. */
  onTake?: (() => void) | undefined;
  onGiveUp: () => void;
}

/**
 * What is being weighed, in a sentence, with the two ways out. It stands where the reading line
 * stands.
 */
export function WeighBar({ answer, error, busy, onTake, onGiveUp }: Props) {
  const first = answer?.moves[0];
  const differs =
    first && answer.moves.length === 1
      ? [
          first.stronger.length && `stronger: ${first.stronger.join(", ")}`,
          first.weaker.length && `weaker: ${first.weaker.join(", ")}`,
        ]
          .filter(Boolean)
          .join(" · ")
      : "";
  return (
    <div className="flex h-7 items-center gap-2 border-l-[3px] border-warn bg-warnbg px-2.5">
      <p role="status" className="min-w-0 flex-1 truncate" title={answer?.sentence}>
        {error ? (
          <span className="text-fail">{error.message}</span>
        ) : (
          (answer?.sentence ?? "Weighing …")
        )}
        {differs && <span className="text-soft"> {differs}</span>}
      </p>
      {onTake && (
        <Button
          tone="main"
          size="small"
          disabled={busy || !answer || answer.precedence === null}
          onClick={onTake}
        >
          Take it <Kbd>Enter</Kbd>
        </Button>
      )}
      <Button size="small" onClick={onGiveUp}>
        Give up <Kbd>Esc</Kbd>
      </Button>
    </div>
  );
}
