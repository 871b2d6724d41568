import { useEffect, useRef, useState, type RefObject } from "react";
import { useTrials } from "../api/bench";
import type { Schemas } from "../api/client";
import { useDirectory } from "../api/directories";
import { useMay } from "../api/domains";
import { useDrafts } from "../api/drafts";
import { domainOf, draftOf, lastDraft, placeOf } from "../draft/place";
import { announce } from "../shared/announce";
import { Button, Kbd } from "../kit/Button";
import { Choices } from "../kit/Choices";
import { Word } from "../shared/Word";
import { useBench, useCandidate, type Face } from "./BenchProvider";
import { BenchEdge, useBenchHeight } from "./BenchEdge";
import { BoundariesFace, type Drawn } from "./BoundariesFace";
import { CandidateFace } from "./CandidateFace";
import { CandidateField } from "./CandidateField";
import { RehearsalFace } from "./RehearsalFace";
import { DrillFace } from "./drill/DrillFace";
import { TrialsFace } from "./TrialsFace";
import { useEveryPolicy } from "./useEveryPolicy";
import { useVerdicts } from "./useVerdicts";
import { WhoIsTried } from "./WhoIsTried";

export type Side = "live" | "draft" | "both";

/**
 * The bench, always at hand below the screen: one line until there is a verdict, then candidates
 * against several accounts at once.
 */
export function Bench({
  domain,
  candidateRef,
}: {
  domain: string;
  candidateRef: RefObject<HTMLInputElement | null>;
}) {
  const { open, setOpen, face, setFace, accounts, policies, circumstances } = useBench();
  const candidate = useCandidate();
  const every = useEveryPolicy(domain);
  const [chosen, choose] = useState<Side | null>(null);
  const [drawn, setDrawn] = useState<Drawn | null>(null);
  const [height, setHeight] = useBenchHeight(face === "drill" ? "tall" : "usual");
  const unfold = useRef<HTMLButtonElement>(null);
  const drafts = useDrafts(domain);
  // The draft that can stand beside live: the one that is shown, else the one shown last if it is
  // still open.
  const last = lastDraft(domain);
  const draft = draftOf(domain) ?? (drafts.data?.some((d) => d.id === last) ? last : null);
  const side: Side =
    draft === null ? "live" : (chosen ?? (draftOf(domain) === null ? "live" : "draft"));
  const may = useMay(domain);
  const stage = useDirectory(domainOf(domain), may("rehearse")).data?.stage ?? "";
  const rehearses = stage !== "" && may("rehearse");

  const who = { accounts, policies: policies.map((p) => p.guid) };
  const live = side === "draft" ? null : domainOf(domain);
  const beside = side === "live" || draft === null ? null : placeOf(domain, draft);
  const ofLive = useVerdicts(live, candidate, circumstances, who);
  const ofDraft = useVerdicts(beside, candidate, circumstances, who);
  const answer = ofDraft.answer ?? ofLive.answer;
  const stale = ofLive.stale || ofDraft.stale;
  const verdict = answer && candidate !== "" && !stale ? summed(answer) : "";

  // The first verdict of a candidate opens it; whoever folds it away keeps it folded until there is
  // another one.
  const opened = useRef(false);
  useEffect(() => {
    if (candidate === "") opened.current = false;
    else if (verdict && !opened.current) {
      opened.current = true;
      setOpen(true);
    }
    if (verdict) announce(verdict, 700);
  }, [candidate, verdict, setOpen]);

  const sides = draft !== null && (
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
  );

  return (
    <section
      aria-label="Bench"
      tabIndex={-1}
      data-open={open}
      className="bench @container relative col-start-1 row-start-3 flex min-h-0 min-w-0 flex-col border-t border-line bg-white outline-none"
      style={open ? { height } : undefined}
    >
      {open && <BenchEdge height={height} onHeight={setHeight} />}
      <div
        className={`flex min-h-9 shrink-0 flex-wrap items-center gap-x-2.5 gap-y-1 px-4 py-1 small:px-2 ${open ? "border-b border-line" : ""}`}
      >
        <h2 className="text-[15px] @max-[560px]:sr-only">
          <Word of="bench">Bench</Word>{" "}
          <span className="@max-[1000px]:hidden">
            <Kbd>B</Kbd>
          </span>
        </h2>
        <div className="w-56 min-w-32 @max-[860px]:w-44 @max-[560px]:flex-1">
          <CandidateField
            inputRef={candidateRef}
            length={answer && candidate && !ofLive.error && !ofDraft.error ? answer.length : null}
            stale={stale}
            onEnter={() => {
              if (candidate === "") return;
              setFace("candidate");
              setOpen(true);
              if (accounts.length + policies.length === 0) void every.lay();
            }}
          />
        </div>
        <WhoIsTried place={domain} />
        <div className="ml-auto flex max-w-full items-center gap-2.5 @max-[560px]:ml-0">
          {!open && verdict && <span className="whitespace-nowrap">{verdict}</span>}
          <Faces place={domain} rehearses={rehearses} />
          <Button
            ref={unfold}
            tone="quiet"
            className="w-7 justify-center px-0!"
            aria-expanded={open}
            aria-label={open ? "Fold the bench away" : "Open the bench"}
            onClick={() => setOpen(!open)}
          >
            {open ? "▾" : "▴"}
          </Button>
        </div>
      </div>
      {open && (
        <div className="min-h-0 flex-1">
          {face === "candidate" && (
            <CandidateFace
              place={domain}
              judged={beside ?? live ?? domain}
              ofLive={ofLive}
              ofDraft={ofDraft}
              sides={sides}
            />
          )}
          {face === "drill" && (
            <DrillFace place={domain} live={live} draft={beside} sides={sides} />
          )}
          {face === "boundaries" && (
            <BoundariesFace place={domain} drawn={drawn} setDrawn={setDrawn} />
          )}
          {face === "trials" && <TrialsFace place={domain} />}
          {face === "rehearsal" && <RehearsalFace place={domain} stage={stage} />}
        </div>
      )}
    </section>
  );
}

function summed(answer: Schemas["AttemptAnswer"]): string {
  const accepted = answer.columns.filter((c) => c.accepted).length;
  const refused = answer.columns.length - accepted;
  return [accepted > 0 && `✓ ${accepted} accepted`, refused > 0 && `✕ ${refused} refused`]
    .filter(Boolean)
    .join(", ");
}

/** Which face of the bench is shown. */
function Faces({ place, rehearses }: { place: string; rehearses: boolean }) {
  const { face, setFace, setOpen } = useBench();
  const trials = useTrials(place).data;
  const unmet = trials?.unmet ?? 0;
  return (
    <Choices
      label="What is on the bench"
      value={face}
      onChange={(next: Face) => {
        setFace(next);
        setOpen(true);
      }}
      choices={[
        { value: "candidate", label: "Candidate" },
        { value: "drill", label: "Drill" },
        { value: "boundaries", label: "Boundaries" },
        {
          value: "trials",
          label: trials
            ? `Trials ${trials.trials.length}${unmet ? ` · ✕ ${unmet}` : ""}`
            : "Trials",
        },
        ...(rehearses ? [{ value: "rehearsal" as const, label: "Rehearsal" }] : []),
      ]}
    />
  );
}
