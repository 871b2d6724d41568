import type { ReactNode } from "react";
import { Refusal } from "../kit/Alert";
import { presentOf, useBench, useCandidate } from "./BenchProvider";
import { CircumstancesPopover } from "./CircumstancesPopover";
import { KeepTrial } from "./KeepTrial";
import { NobodyYet } from "./NobodyYet";
import { RuleMatrix } from "./RuleMatrix";
import { Strip } from "./Strip";
import { SuggestPopover } from "./SuggestPopover";
import { passing } from "../shared/useAsked";
import { useEveryPolicy } from "./useEveryPolicy";
import type { Verdicts } from "./useVerdicts";
import { WhoSetsIt } from "./WhoSetsIt";

interface Props {
  place: string;
  /** The place whose rules a suggestion follows. */
  judged: string;
  ofLive: Verdicts;
  ofDraft: Verdicts;
  /** The choice of the estate that judges, where there is one. */
  sides: ReactNode;
}

/** One candidate on several accounts, as it is typed. */
export function CandidateFace({ place, judged, ofLive, ofDraft, sides }: Props) {
  const { accounts, policies, shown, circumstances } = useBench();
  const candidate = useCandidate();
  const every = useEveryPolicy(place);
  const answer = ofDraft.answer ?? ofLive.answer;
  const error = ofLive.error ?? ofDraft.error;
  const stale = ofLive.stale || ofDraft.stale;
  const nobody = accounts.length + policies.length === 0;
  const judging = !error && !nobody && candidate !== "";
  return (
    <div className="flex h-full flex-col overflow-y-auto px-4 small:px-2">
      <div className="flex shrink-0 flex-wrap items-center gap-x-2 gap-y-1 py-1 [&>[role=radiogroup]]:self-center">
        <WhoSetsIt />
        {sides}
        <CircumstancesPopover />
        <SuggestPopover place={judged} />
        {judging && answer && (
          <span className="flex min-w-40 flex-1 items-center justify-between gap-3">
            <Strip candidate={candidate} places={stale ? [] : answer.strip} shown={shown} />
            <KeepTrial
              place={place}
              kept={{ candidate, present: presentOf(circumstances) }}
              first={answer.columns[0]?.accepted ? "accepted" : "refused"}
              stale={stale}
            />
          </span>
        )}
      </div>
      {error ? (
        <Refusal error={error} also={passing(error) ? "It is asked again by itself." : ""} />
      ) : nobody ? (
        <NobodyYet place={place} policies>
          Add accounts or policies above and compare the answers of each rule side by side. Enter in
          the candidate field tries every policy.
        </NobodyYet>
      ) : candidate === "" ? (
        <p className="grid flex-1 place-content-center py-2 text-center text-soft">
          Type a candidate: what each rule says stands here as you type.
        </p>
      ) : (
        <div
          aria-busy={stale}
          tabIndex={0}
          role="group"
          aria-label="What each rule says"
          className="min-h-24 flex-1 overflow-auto pb-1"
        >
          {every.isCut && <p className="text-xs text-soft">Columns: {every.which}.</p>}
          {stale && (
            <p className="appear absolute top-9 left-36 z-20 rounded bg-white px-2 text-soft">
              Asking about the candidate as it stands now …
            </p>
          )}
          <div
            inert={stale}
            aria-hidden={stale}
            className={`transition-opacity duration-150 ${stale ? "opacity-20" : ""}`}
          >
            <RuleMatrix place={place} live={ofLive.answer} draft={ofDraft.answer} />
          </div>
        </div>
      )}
    </div>
  );
}
