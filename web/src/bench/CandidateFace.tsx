import type { RefObject } from "react";
import { createPortal } from "react-dom";
import { Button, Notice } from "../shared/controls";
import { useBench } from "./BenchProvider";
import { CandidateField } from "./CandidateField";
import { CircumstancesPopover } from "./CircumstancesPopover";
import { KeepTrial } from "./KeepTrial";
import { RuleMatrix } from "./RuleMatrix";
import { Strip } from "./Strip";
import { SuggestPopover } from "./SuggestPopover";
import { useSamples } from "./useSamples";
import { passing, useVerdicts } from "./useVerdicts";
import { WhoIsTried } from "./WhoIsTried";
import { WhoSetsIt } from "./WhoSetsIt";

interface Props {
  place: string;
  live: string | null;
  draft: string | null;
  candidateRef: RefObject<HTMLInputElement | null>;
  /** The free room in the bench's title bar. */
  head: HTMLElement | null;
}

/** One candidate on several accounts, as it is typed. */
export function CandidateFace({ place, live, draft, candidateRef, head }: Props) {
  const { accounts, policies, add, candidate, circumstances, shown } = useBench();
  const samples = useSamples(place);
  const who = { accounts, policies: policies.map((p) => p.guid) };
  const ofLive = useVerdicts(live, candidate, circumstances, who);
  const ofDraft = useVerdicts(draft, candidate, circumstances, who);
  const answer = ofDraft.answer ?? ofLive.answer;
  const error = ofLive.error ?? ofDraft.error;
  const stale = ofLive.stale || ofDraft.stale;
  const nobody = accounts.length + policies.length === 0;
  return (
    <div className="grid h-full grid-cols-[268px_minmax(0,1fr)]">
      <div className="flex flex-col gap-1.5 overflow-y-auto border-r border-line px-4 py-2">
        <CandidateField inputRef={candidateRef} length={answer && candidate && !error ? answer.length : null} stale={stale} />
        <WhoSetsIt />
        <div className="flex gap-1.5">
          <CircumstancesPopover />
          <SuggestPopover place={draft ?? live ?? place} />
        </div>
        <WhoIsTried place={place} />
      </div>
      <div className="flex min-h-0 flex-col overflow-hidden px-4 pt-1">
        {error ? (
          <Notice tone="fail" role="alert">
            {error.message} {passing(error) && "It is asked again by itself."}
          </Notice>
        ) : nobody ? (
          <div className="grid h-full place-content-center justify-items-center gap-2 text-center text-soft">
            <p>Add accounts on the left, and see each rule’s answer for them side by side.</p>
            <Button onClick={() => add(samples.ofLargest())} disabled={!samples.ready}>
              Take one account from each of the largest populations
            </Button>
          </div>
        ) : candidate === "" ? (
          <p className="grid h-full place-content-center text-center text-soft">Type a candidate: what each rule says stands here as you type.</p>
        ) : (
          <>
            {head &&
              answer &&
              createPortal(
                <>
                  <Strip candidate={candidate} places={stale ? [] : answer.strip} shown={shown} />
                  <KeepTrial place={place} answer={answer} stale={stale} />
                </>,
                head,
              )}
            <div aria-busy={stale} className="relative min-h-0 flex-1 overflow-auto pb-1">
              {stale && <p className="appear absolute top-9 left-36 z-20 rounded bg-white px-2 text-soft">Asking about the candidate as it stands now …</p>}
              <div inert={stale} aria-hidden={stale} className={`transition-opacity duration-150 ${stale ? "opacity-20" : ""}`}>
                <RuleMatrix place={place} live={ofLive.answer} draft={ofDraft.answer} />
              </div>
            </div>
          </>
        )}
      </div>
    </div>
  );
}
