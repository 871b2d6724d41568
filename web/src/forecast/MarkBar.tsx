import type { Schemas } from "../api/client";
import { useMarkThere } from "../api/forecast";
import { useEditPolicy, usePolicy } from "../api/policies";
import { useEditBedrock } from "../api/sources";
import { useShow } from "../draft/useShow";
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

/** What a policy has with its mark somewhere else, and saving that to the draft. */
export function useMoved(
  place: string,
  plane: "duration" | "window",
  moving: Moving | null,
  onDone: () => void,
): Moved {
  const paced = usePaced(moving);
  const asked = paced && { policy: paced.key, plane, threshold: paced.threshold, span: paced.span };
  const there = useMarkThere(place, asked as Schemas["MarkMoved"] | null);
  const isPolicy = moving !== null && moving.key !== "domain";
  const policy = usePolicy(place, isPolicy ? moving.key : null);
  const edit = useEditPolicy(place, moving?.key ?? "");
  const bedrock = useEditBedrock(place);
  const show = useShow(place);
  // What would be saved is what was answered about the mark where it stands.
  const current = paced === moving && !there.isPlaceholderData ? there.data : undefined;
  const save = () => {
    if (!current) return;
    const { lockout_threshold, lockout_window, lockout_duration } = current.settings;
    const settings = { lockout_threshold, lockout_window, lockout_duration };
    const onSuccess = ({ place: to }: { place: string }) => {
      announce("Saved to the draft.");
      onDone();
      show(to);
    };
    if (!isPolicy) bedrock.mutate(settings, { onSuccess });
    else if (policy.data) edit.mutate({ version: policy.data.version, settings }, { onSuccess });
  };
  return {
    there: current,
    save,
    saving: edit.isPending || bedrock.isPending,
    error: edit.error ?? bedrock.error ?? there.error ?? policy.error,
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
        <Button tone="main" disabled={!moved.there || moved.saving} onClick={moved.save}>
          Save to draft
        </Button>
        <Button onClick={onGiveUp}>Put it back</Button>
      </p>
      <Refused error={moved.error} />
    </div>
  );
}
