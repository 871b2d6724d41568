import type { Schemas } from "../api/client";
import { useMarkThere, useSaveMark } from "../api/forecast";
import { conflictOf } from "../api/writing";
import type { Settings } from "../api/policies";
import { announce } from "../shared/announce";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { usePaced } from "../shared/usePaced";
import { useWhenFree } from "../shared/useWhenFree";
import { saidOf, type Moving } from "./Plot";

export interface Moved {
  there: Schemas["MarkThere"] | undefined;
  save: () => void;
  saving: boolean;
  giveUp: () => void;
  /** What somebody else has made of the policy since the mark was taken up. */
  theirs: string | null;
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
  onMove: (change: (now: Moving | null) => Moving | null) => void,
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
  const saving = useSaveMark(place);
  const theirs = conflictOf(saving.error);
  // A save under way is of where the mark was before: it may have been moved on.
  const save = useWhenFree(saving.isPending, () => {
    if (!moving) return;
    saving.mutate(
      // Whoever has read what others did and saves again wants to.
      { mark: markOf(moving), version: theirs?.current.version ?? moving.version },
      {
        onSuccess: () => {
          announce("Saved to the draft.");
          onMove((now) => (now === moving ? null : now));
        },
      },
    );
  });
  return {
    // What is said is about the mark where it stands.
    there: paced === moving && !there.isPlaceholderData ? there.data : undefined,
    save,
    saving: saving.isPending,
    giveUp: () => {
      saving.reset();
      onMove(() => null);
    },
    theirs: theirs && theirsText(theirs.current.settings, plane),
    error: saving.error ?? there.error,
  };
}

const theirsText = (settings: Settings, plane: Plane) =>
  `In the draft now: ${saidOf({
    threshold: settings.lockout_threshold,
    span: plane === "duration" ? settings.lockout_duration : settings.lockout_window,
  })}.`;

/** Says what the mark that is moved comes to. */
export function MarkBar({
  name,
  moved,
  savable,
}: {
  name: string;
  moved: Moved;
  savable: boolean;
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
        {savable && (
          <Button tone="main" aria-busy={moved.saving} onClick={moved.save}>
            {moved.theirs ? "Save mine on top" : "Save to draft"}
          </Button>
        )}
        <Button onClick={moved.giveUp}>{moved.theirs ? "Take the draft’s" : "Put it back"}</Button>
      </p>
      <Refusal error={moved.error} also={moved.theirs ?? ""} />
    </div>
  );
}
