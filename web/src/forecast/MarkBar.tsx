import type { Schemas } from "../api/client";
import { useMarkThere, useSaveMark } from "../api/forecast";
import { usePolicy } from "../api/policies";
import { announce } from "../shared/announce";
import { Button, Refused } from "../shared/controls";
import { usePaced } from "../shared/usePaced";
import type { Moving } from "./Plot";

export interface Moved {
  there: Schemas["MarkThere"] | undefined;
  save: () => void;
  saving: boolean;
  error: Error | null;
}

type Plane = Schemas["MarkMoved"]["plane"];

type Numbers = Schemas["MarkMoved"]["assumed"];

/** What a policy has with its mark somewhere else, and saving that to the draft. */
export function useMoved(
  place: string,
  plane: Plane,
  assumed: Numbers,
  moving: Moving | null,
  onDone: () => void,
): Moved {
  const markOf = ({ key, threshold, span }: Moving): Schemas["MarkMoved"] => ({
    policy: key,
    plane,
    threshold,
    span,
    assumed,
  });
  const paced = usePaced(moving);
  const there = useMarkThere(place, paced && markOf(paced));
  const policy = usePolicy(place, moving && moving.key !== "domain" ? moving.key : null);
  const saving = useSaveMark(place);
  const save = () => {
    if (!moving || saving.isPending) return;
    saving.mutate(
      { mark: markOf(moving), version: policy.data?.version },
      {
        onSuccess: () => {
          announce("Saved to the draft.");
          onDone();
        },
      },
    );
  };
  return {
    // What is said is about the mark where it stands.
    there: paced === moving && !there.isPlaceholderData ? there.data : undefined,
    save,
    saving: saving.isPending,
    error: saving.error ?? there.error ?? policy.error,
  };
}

/** Says what the mark that is moved comes to. */
export function MarkBar({
  name,
  moved,
  onGiveUp,
}: {
  name: string;
  moved: Moved;
  onGiveUp: () => void;
}) {
  return (
    <div role="status" className="space-y-1 border-l-[3px] border-warn bg-warnbg px-2.5 py-1.5">
      <p className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <span className="min-w-0 flex-1">
          <b>{name}</b>{" "}
          {moved.there
            ? `${moved.there.sentence} Chance to hit in a password’s life: ${moved.there.chance_shown}.`
            : "…"}
        </span>
        <Button tone="main" disabled={moved.saving} onClick={moved.save}>
          Save to draft
        </Button>
        <Button onClick={onGiveUp}>Put it back</Button>
      </p>
      <Refused error={moved.error} />
    </div>
  );
}
