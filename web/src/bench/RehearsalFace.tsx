import { Table } from "../kit/Table";
import { useState } from "react";
import { useRehearsal } from "../api/bench";
import type { Schemas } from "../api/client";
import { useStrata } from "../api/domains";
import { domainOf } from "../draft/place";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Loading } from "../kit/Loading";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { Select, TextInput } from "../kit/inputs";
import { Word } from "../shared/Word";
import { useBench, useCandidate } from "./BenchProvider";

type Answer = Schemas["RehearsalAnswer"];

const START = { policy: "", candidate: true, set: true, story: "" };

/** What came of the last rehearsal, and of what. */
interface Done {
  policy: string;
  candidate: string | null;
  answer: Answer;
}

/**
 * A live policy on an account that is made for it in the directory: its word beside ours. The
 * account goes whatever happens.
 */
export function RehearsalFace({ place, stage }: { place: string; stage: string }) {
  const domain = domainOf(place);
  const strata = useStrata(domain).data;
  const candidate = useCandidate();
  const { policies } = useBench();
  const [done, setDone] = useState<Done | null>(null);
  const rehearsal = useRehearsal(domain);
  const form = useForm({ work: null, start: START, writes: [rehearsal] });
  const wants = form.value;
  const layers = strata?.layers ?? [];
  const first = policies[0]?.guid ?? layers[0]?.guid ?? "domain";
  const policy = wants.policy || (layers.some((layer) => layer.guid === first) ? first : "domain");
  const withCandidate = wants.candidate && candidate !== "";
  const nothing = !withCandidate && !wants.set && wants.story.trim() === "";
  // A word belongs to the candidate and the policy it was said of.
  const shown =
    done && done.policy === policy && (done.candidate === null || done.candidate === candidate)
      ? done.answer
      : null;
  return (
    <Form
      of={form}
      label="Rehearsal"
      className="flex h-full flex-col overflow-y-auto"
      onSubmit={() => {
        if (nothing) return;
        const asked = withCandidate ? candidate : null;
        setDone(null);
        rehearsal.mutate(
          { policy, candidate: asked, boundary_set: wants.set, story: wants.story.trim() || null },
          { onSuccess: (answer) => setDone({ policy, candidate: asked, answer }) },
        );
      }}
    >
      <div className="flex shrink-0 flex-wrap items-center gap-x-2.5 gap-y-1 px-4 py-1 small:px-2">
        <Word of="rehearsal">Rehearsal</Word>
        <label className="flex max-w-full min-w-0 items-center gap-1.5">
          <span className="shrink-0 text-soft">Under</span>
          <Select {...form.text("policy")}>
            {layers.map((layer) => (
              <option key={layer.guid} value={layer.guid}>
                {layer.name}
              </option>
            ))}
            <option value="domain">Domain policy</option>
          </Select>
        </label>
        <label className="flex min-h-6 items-center gap-1.5">
          <input
            type="checkbox"
            checked={withCandidate}
            disabled={candidate === ""}
            onChange={(event) => form.change({ candidate: event.target.checked })}
          />
          the candidate
        </label>
        <label className="flex min-h-6 items-center gap-1.5">
          <input
            type="checkbox"
            checked={wants.set}
            onChange={(event) => form.change({ set: event.target.checked })}
          />
          a set on both sides of every rule
        </label>
        <label className="flex min-w-0 items-center gap-1.5">
          <span className="shrink-0 text-soft">a story</span>
          <TextInput
            className="w-52 min-w-24"
            placeholder="3 bad, good, unlock, good"
            maxLength={2000}
            {...form.text("story")}
          />
        </label>
        <Button type="submit" tone="main" disabled={nothing} aria-busy={rehearsal.isPending}>
          Rehearse
        </Button>
      </div>
      <div
        tabIndex={0}
        role="group"
        aria-label="What the directory said"
        className="min-h-24 flex-1 overflow-auto px-4 pb-2 small:px-2"
      >
        {rehearsal.isPending ? (
          <Loading what="the directory’s word" />
        ) : rehearsal.error ? (
          <Refusal error={rehearsal.error} />
        ) : shown ? (
          <Said answer={shown} />
        ) : (
          <p className="grid h-full place-content-center text-center text-soft">
            An account is made in {stage}, put under the policy as it is live, tried, and deleted
            again. Stories are played without the time between their events.
          </p>
        )}
      </div>
    </Form>
  );
}

const passed = (accepted: boolean) => (accepted ? "✓ accepts" : "✕ refuses");

function Said({ answer }: { answer: Answer }) {
  const { server, tries, played, agree } = answer;
  return (
    <>
      <p role="status" className={`pb-1 ${agree === "all" ? "text-pass" : "text-warn"}`}>
        {agree === "all"
          ? `✓ ${server} says the same as we do.`
          : `△ ${server} says otherwise, where it is marked.`}
      </p>
      {tries.length > 0 && (
        <Table
          label="Passwords that were set"
          heads={["Password", "", "The directory", "Here", "What explains it"]}
        >
          {tries.map((one, number) => (
            <tr key={number} className="border-b border-line/60 align-top">
              <th scope="row" className="py-0.5 pr-3 font-medium">
                {one.about}
              </th>
              <td className="max-w-64 py-0.5 pr-3 font-mono break-all">{one.text}</td>
              <td className="py-0.5 pr-3 whitespace-nowrap">
                {one.accepted !== one.ours && "△ "}
                {passed(one.accepted)}
              </td>
              <td className="py-0.5 pr-3">
                {passed(one.ours)}
                {one.refused_by.length > 0 && (
                  <span className="text-soft"> by {one.refused_by.join(", ").toLowerCase()}</span>
                )}
              </td>
              <td className="py-0.5 text-soft">{one.why}</td>
            </tr>
          ))}
        </Table>
      )}
      {played.length > 0 && (
        <Table label="The story" heads={["Event", "After", "The directory", "Here"]}>
          {played.map((one, number) => (
            <tr key={number} className="border-b border-line/60">
              <th scope="row" className="py-0.5 pr-3 font-medium">
                {EVENTS[one.event]}
              </th>
              <td className="py-0.5 pr-3 text-soft tabular-nums">{one.at.toFixed(2)} s</td>
              <td className="py-0.5 pr-3">
                {one.outcome !== one.ours && "△ "}
                {one.outcome}
              </td>
              <td className="py-0.5">{one.ours}</td>
            </tr>
          ))}
        </Table>
      )}
    </>
  );
}

const EVENTS = {
  bad: "A wrong password",
  good: "The right one",
  old: "The one before",
  unlock: "Unlocked by hand",
} as const;
