import { useState, type RefObject } from "react";
import { useTrials } from "../api/bench";
import { useDrafts } from "../api/drafts";
import { domainOf, draftOf, lastDraft, placeOf } from "../draft/place";
import { Button, Choices, Kbd } from "../shared/controls";
import { useBench, type Face } from "./BenchProvider";
import { BoundariesFace, type Drawn } from "./BoundariesFace";
import { CandidateFace } from "./CandidateFace";
import { TrialsFace } from "./TrialsFace";

export type Side = "live" | "draft" | "both";

/** The bench, always at hand below the screen: candidates against several accounts at once, live, in the draft, or both. */
export function Bench({ domain, candidateRef }: { domain: string; candidateRef: RefObject<HTMLInputElement | null> }) {
  const { open, setOpen, face, setFace } = useBench();
  const [tall, setTall] = useState(false);
  const [chosen, choose] = useState<Side | null>(null);
  const [drawn, setDrawn] = useState<Drawn | null>(null);
  const [head, setHead] = useState<HTMLElement | null>(null);
  const drafts = useDrafts(domain);
  const trials = useTrials(domain);
  // The draft that can stand beside live: the one that is shown, else the one shown last if it is still open.
  const last = lastDraft(domain);
  const draft = draftOf(domain) ?? (drafts.data?.some((d) => d.id === last) ? last : null);
  const side: Side = draft === null ? "live" : (chosen ?? (draftOf(domain) === null ? "live" : "draft"));
  const unmet = trials.data?.unmet ?? 0;

  if (!open) {
    return (
      <section aria-label="Bench" className="shrink-0 border-t border-line bg-white">
        <button type="button" className="flex h-8 w-full items-center gap-2 px-4 text-left" onClick={() => setOpen(true)}>
          <span className="font-head font-semibold">Bench</span> <Kbd>B</Kbd>
          <span className="text-soft">Try a candidate password</span>
          {unmet > 0 && <span className="ml-auto text-fail">✕ {unmet === 1 ? "1 trial is" : `${unmet} trials are`} not met</span>}
        </button>
      </section>
    );
  }
  return (
    <section aria-label="Bench" className={`flex shrink-0 flex-col border-t border-line bg-white ${tall ? "h-[420px]" : "h-[256px]"}`}>
      <div className="flex min-h-10 shrink-0 flex-wrap items-center gap-x-3 border-b border-line px-4 [&>[role=radiogroup]]:self-center">
        <h2 className="text-[15px]">Bench</h2>
        <Kbd>B</Kbd>
        <Choices
          label="What is on the bench"
          value={face}
          onChange={(next: Face) => setFace(next)}
          choices={[
            { value: "candidate", label: "Candidate" },
            { value: "boundaries", label: "Boundaries" },
            { value: "trials", label: trials.data ? `Trials ${trials.data.trials.length}${unmet ? ` · ✕ ${unmet}` : ""}` : "Trials" },
          ]}
        />
        {draft !== null && face === "candidate" && (
          <Choices
            label="Which estate judges"
            value={side}
            onChange={choose}
            choices={[
              { value: "live", label: "Live" },
              { value: "draft", label: "Draft" },
              { value: "both", label: "Both" },
            ]}
          />
        )}
        <div ref={setHead} className={`flex h-10 flex-1 items-center justify-between gap-3 ${face === "candidate" ? "min-w-80" : "min-w-0"}`} />
        <span className="flex gap-1">
          <Button tone="quiet" className="px-1.5" aria-pressed={tall} aria-label={tall ? "Make the bench lower" : "Make the bench taller"} onClick={() => setTall(!tall)}>
            {tall ? "↧" : "↥"}
          </Button>
          <Button tone="quiet" className="px-1.5" aria-label="Fold the bench away" onClick={() => setOpen(false)}>
            ▾
          </Button>
        </span>
      </div>
      <div className="min-h-0 flex-1">
        {face === "candidate" && (
          <CandidateFace
            place={domain}
            live={side === "draft" ? null : domainOf(domain)}
            draft={side === "live" || draft === null ? null : placeOf(domain, draft)}
            candidateRef={candidateRef}
            head={head}
          />
        )}
        {face === "boundaries" && <BoundariesFace place={domain} drawn={drawn} setDrawn={setDrawn} />}
        {face === "trials" && <TrialsFace place={domain} />}
      </div>
    </section>
  );
}
