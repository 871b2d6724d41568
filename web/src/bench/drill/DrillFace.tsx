import { scaleLinear } from "d3-scale";
import { useEffect, useId, useState, type ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { useStories } from "../../api/drill";
import { domainOf } from "../../draft/place";
import { announce } from "../../shared/announce";
import { Refusal } from "../../kit/Alert";
import { Button } from "../../kit/Button";
import { Select, TextInput } from "../../kit/inputs";
import { useWidth } from "../../kit/plot/useWidth";
import { Swatch } from "../../kit/Swatch";
import { Word } from "../../shared/Word";
import { useBench } from "../BenchProvider";
import { NobodyYet } from "../NobodyYet";
import { KeepTrial } from "../KeepTrial";
import { Course, TimeAxis } from "./Course";
import { Readings } from "./Readings";
import {
  LANES,
  moved,
  nudge,
  panned,
  wholeOf,
  without,
  zoomed,
  type EventAt,
  type Kind,
  type View,
} from "./story";
import { TimeLine } from "./TimeLine";
import { useDrill, type Drilled } from "./useDrill";
import { questionOf, useStory } from "./useStory";

/** Room for the names of the lanes, and at the right edge. */
const LEFT = 80;
const RIGHT = 14;

/** One story at the accounts and policies on the bench, in live, the draft or both. */
export function DrillFace({
  place,
  live,
  draft,
  sides,
}: {
  place: string;
  live: string | null;
  draft: string | null;
  sides: ReactNode;
}) {
  const { accounts, policies } = useBench();
  const [told, tell, back] = useStory(domainOf(place));
  const question = questionOf(
    told,
    accounts,
    policies.map((policy) => policy.guid),
  );
  const ofLive = useDrill(live, question);
  const ofDraft = useDrill(draft, question);
  const { answer } = ofDraft.answer ? ofDraft : ofLive;
  const error = ofDraft.error ?? ofLive.error;
  const stale = ofDraft.stale || ofLive.stale;
  const events = told.how === "placed" ? told.events : (answer?.events ?? []);
  const understood = told.how === "typed" ? told.text : (answer?.story ?? "");
  const nobody = accounts.length + policies.length === 0;

  const said = stale ? "" : (answer?.columns.map((column) => column.said).join(" ") ?? "");
  useEffect(() => {
    if (said) announce(said, 900);
  }, [said]);

  const replace = (next: EventAt[]) => tell({ ...told, how: "placed", events: next });
  return (
    <div className="flex h-full flex-col overflow-y-auto px-4 small:px-2">
      <StoryLine
        ready={told.how === "ready" ? told.ready : ""}
        onReady={(ready) => tell({ ...told, how: "ready", ready })}
        text={understood}
        understood={told.how === "typed" && !error ? (answer?.story ?? "") : ""}
        onText={(text) => tell({ ...told, how: "typed", text })}
        error={error}
      >
        {sides}
        {answer && !error && answer.columns.length > 0 && answer.events.length > 0 && (
          <KeepTrial
            place={place}
            kept={{ story: answer.story }}
            first={answer.columns[0]?.locks.length ? "locks" : "stays_open"}
            stale={stale}
          />
        )}
      </StoryLine>
      {nobody ? (
        <NobodyYet place={place}>
          Add accounts or policies above, and see what becomes of the story at each of them.
        </NobodyYet>
      ) : (
        !error && (
          <Played
            events={events}
            ofLive={ofLive}
            ofDraft={ofDraft}
            onEvents={replace}
            onBack={back}
          />
        )
      )}
    </div>
  );
}

/** The story in words: one that is ready, or one's own. */
function StoryLine({
  ready,
  onReady,
  text,
  understood,
  onText,
  error,
  children,
}: {
  ready: string;
  onReady: (key: string) => void;
  text: string;
  understood: string;
  onText: (text: string) => void;
  error: Error | null;
  children: ReactNode;
}) {
  const stories = useStories();
  const help = useId();
  return (
    <div className="shrink-0 py-1">
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1 [&>[role=radiogroup]]:self-center">
        <Word of="story">Story</Word>
        <Select
          aria-label="A ready-made story"
          className="max-w-full"
          value={ready}
          onChange={(event) => onReady(event.target.value)}
        >
          {ready === "" && <option value="">One of your own</option>}
          {stories.data?.map((story) => (
            <option key={story.key} value={story.key}>
              {story.title}
            </option>
          ))}
        </Select>
        <TextInput
          aria-label="The story in words"
          aria-describedby={help}
          aria-invalid={error !== null}
          className="min-w-48 flex-1 font-mono text-xs"
          value={text}
          spellCheck={false}
          autoComplete="off"
          maxLength={20_000}
          placeholder="3 bad in 10 min, good after 2 h, unlock"
          onChange={(event) => onText(event.target.value)}
        />
        {children}
      </div>
      <p id={help} className="truncate text-xs text-soft" title={understood}>
        {understood
          ? `Understood: ${understood}`
          : "bad, good, old or unlock, each with a number before it and at, after, every, in or for behind it."}
      </p>
      <Refusal error={error} />
    </div>
  );
}

function Played({
  events,
  ofLive,
  ofDraft,
  onEvents,
  onBack,
}: {
  events: EventAt[];
  ofLive: Drilled;
  ofDraft: Drilled;
  onEvents: (events: EventAt[]) => void;
  /** Takes the last change of the story back. */
  onBack: (() => void) | null;
}) {
  const [ref, width] = useWidth();
  const [chosen, setView] = useState<View | null>(null);
  const [selected, select] = useState<number[]>([]);
  // What is in view stands still while an event is dragged.
  const [held, hold] = useState<View | null>(null);
  const played = ofDraft.answer ?? ofLive.answer;
  const stale = ofDraft.stale || ofLive.stale;
  const both = ofLive.answer !== null && ofDraft.answer !== null;
  const columns = [
    ...(ofLive.answer?.columns.map((column) => ({ column, of: both ? "live" : "" })) ?? []),
    ...(ofDraft.answer?.columns.map((column) => ({ column, of: both ? "draft" : "" })) ?? []),
  ].sort((a, b) => order(ofLive, ofDraft, a.column) - order(ofLive, ofDraft, b.column));
  const whole = wholeOf(
    events,
    columns.map(({ column }) => column),
  );
  const view = held ?? (chosen && chosen.end <= whole.end ? chosen : whole);
  const x = scaleLinear([view.start, view.end], [LEFT, Math.max(LEFT + 60, width - RIGHT)]);

  const add = (kind: Kind, at: number) => {
    onEvents([...events, { at, event: kind }]);
    select([events.length]);
  };
  const after = () => {
    const chosen = events.filter((_, n) => selected.includes(n));
    const here = (chosen.length > 0 ? chosen : events).map((event) => event.at);
    return here.length === 0 ? 0 : Math.max(...here) + nudge(view);
  };
  return (
    <div
      ref={ref}
      className="min-w-0 flex-1 pb-2"
      onKeyDown={(event) => {
        // Here it is the story that is taken back, not the draft.
        if (event.key.toLowerCase() !== "z" || !(event.ctrlKey || event.metaKey)) return;
        event.preventDefault();
        event.stopPropagation();
        onBack?.();
      }}
    >
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 pb-1">
        <span className="flex gap-1" role="group" aria-label="Add after the one that is chosen">
          {LANES.map((lane) => (
            <Button key={lane.kind} size="small" onClick={() => add(lane.kind, after())}>
              + {lane.label}
            </Button>
          ))}
        </span>
        <span className="flex gap-1" role="group" aria-label="What of it is in view">
          <Button
            size="small"
            aria-label="Earlier"
            onClick={() => setView(panned(view, -0.5, whole))}
          >
            ◂
          </Button>
          <Button
            size="small"
            aria-label="Further away"
            onClick={() => setView(zoomed(view, 0.5, whole))}
          >
            −
          </Button>
          <Button size="small" aria-label="Closer" onClick={() => setView(zoomed(view, 2, whole))}>
            +
          </Button>
          <Button size="small" aria-label="Later" onClick={() => setView(panned(view, 0.5, whole))}>
            ▸
          </Button>
          <Button size="small" disabled={chosen === null} onClick={() => setView(null)}>
            All
          </Button>
        </span>
        <span className="flex gap-1">
          <Button size="small" disabled={events.length === 0} onClick={() => onEvents([])}>
            Clear
          </Button>
          <Button size="small" disabled={!onBack} onClick={() => onBack?.()}>
            Take back
          </Button>
        </span>
      </div>
      {played && played.unknown.length > 0 && (
        <p className="text-warn">△ No longer in this domain: {played.unknown.join(", ")}.</p>
      )}
      {width > 0 && (
        <>
          <TimeLine
            events={events}
            x={x}
            view={view}
            selected={selected}
            onSelect={select}
            onMove={(which, by) => onEvents(moved(events, which, by))}
            onGrab={(taken) => hold(taken ? view : null)}
            onRemove={(which) => {
              onEvents(without(events, which));
              select([]);
            }}
            onAdd={add}
          />
          <TimeAxis x={x} view={view} />
          <div
            aria-busy={stale}
            className={`transition-opacity delay-150 duration-150 ${stale ? "opacity-30" : ""}`}
          >
            {columns.map(({ column, of }) => (
              <Subject
                key={`${of} ${column.account ?? ""} ${column.policy}`}
                column={column}
                of={of}
              >
                {column.threshold > 0 && (
                  <Course column={column} events={played?.events ?? []} x={x} view={view} />
                )}
                <Readings column={column} view={view} />
              </Subject>
            ))}
          </div>
        </>
      )}
    </div>
  );
}

/** Live and draft of one subject stand one below the other. */
function order(ofLive: Drilled, ofDraft: Drilled, column: Schemas["DrillColumn"]) {
  const all = ofLive.answer?.columns ?? ofDraft.answer?.columns ?? [];
  return all.findIndex((one) =>
    one.account === null ? one.policy === column.policy : one.account === column.account,
  );
}

function Subject({
  column,
  of,
  children,
}: {
  column: Schemas["DrillColumn"];
  of: string;
  children: ReactNode;
}) {
  return (
    <section
      aria-label={`${column.account ?? `Anybody under ${column.policy_name}`}${of && `, ${of}`}`}
      className="border-t border-line pt-1.5"
    >
      <p className="flex flex-wrap items-baseline gap-x-2">
        <span className="font-medium">{column.account ?? "anybody"}</span>
        <span className="inline-flex items-center gap-1.5 text-soft" title={column.rule}>
          <Swatch mark={column.mark} size={12} /> {column.policy_name}
          {of && ` · ${of}`}
        </span>
        <span className={column.locks.length > 0 ? "font-medium text-fail" : "text-pass"}>
          {column.locks.length > 0 ? "✕" : "✓"} {column.said}
        </span>
      </p>
      {column.lesson && <p className="text-xs text-soft">{column.lesson}</p>}
      {children}
    </section>
  );
}
