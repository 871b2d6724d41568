import { Table } from "../kit/Table";
import { useState } from "react";
import { useDropTrial, useTrials } from "../api/bench";
import type { Schemas } from "../api/client";
import { useDomains, useEditDomain, useMay } from "../api/domains";
import { domainOf, draftOf } from "../draft/place";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { ReasonForm } from "../kit/ReasonForm";
import { Word } from "../shared/Word";
import { TrialState } from "./TrialState";

const WHOM: Record<Schemas["TrialInfo"]["kind"], string> = {
  account: "",
  population: "those like ",
  group: "",
};

const MUST: Record<Schemas["TrialInfo"]["expected"], string> = {
  accepted: "be accepted",
  refused: "be refused",
  locks: "lock",
  stays_open: "not lock",
};

/** The kept trials and what comes of them in what is shown. */
export function TrialsFace({ place }: { place: string }) {
  const trials = useTrials(place);
  const drop = useDropTrial(place);
  const may = useMay(place);
  const domains = useDomains();
  const edit = useEditDomain(domainOf(place));
  const [asked, setAsked] = useState<boolean | null>(null);
  const info = domains.data?.find((d) => d.dns_name === domainOf(place));
  if (trials.isPending) return <Loading what="the trials" />;
  if (trials.error) return <Failure error={trials.error} retry={() => void trials.refetch()} />;
  const { data } = trials;
  const drafting = draftOf(place) !== null;
  const error = drop.error ?? edit.error;
  return (
    <div className="flex h-full flex-col overflow-y-auto px-4 small:px-2">
      <div className="flex min-h-9 shrink-0 flex-wrap items-center gap-x-4 [&>label]:shrink-0">
        <p className={`whitespace-nowrap ${data.unmet ? "font-medium text-fail" : "text-soft"}`}>
          {data.trials.length === 0
            ? "No trial is kept yet."
            : data.running > 0
              ? `${data.running} of ${data.trials.length} still running …`
              : data.unmet === 0
                ? `✓ All ${data.trials.length} are met ${drafting ? "in this draft" : "live"}.`
                : `✕ ${data.unmet} of ${data.trials.length} not met ${drafting ? "in this draft" : "live"}.`}
        </p>
        {info && (
          <span className="flex items-center gap-2">
            {info.trials_required
              ? "Publishing wants all of them met."
              : "Publishing goes on whether they are met or not."}
            {may("settings") && (
              <Button size="small" onClick={() => setAsked(!info.trials_required)}>
                Change …
              </Button>
            )}
          </span>
        )}
        <span className="ml-auto text-xs text-soft">
          A <Word of="trial">trial</Word>’s candidate is invented, and stored. It is judged as an
          operator reset, or as a change of another invented one.
        </span>
      </div>
      {info && asked !== null && (
        <ReasonForm
          act="Ask for it"
          busy={edit.isPending}
          onAct={(reason) =>
            edit.mutate(
              { trials_required: asked, version: info.version, reason },
              { onSuccess: () => setAsked(null) },
            )
          }
          onKeep={() => setAsked(null)}
        >
          {asked
            ? "From then on nothing is published while a trial is not met."
            : "From then on drafts are published whatever the trials say."}
        </ReasonForm>
      )}
      <Refusal error={error} />
      <div
        tabIndex={0}
        id="trials"
        role="group"
        aria-label="Kept trials"
        className="min-h-24 flex-1 overflow-auto pb-2"
      >
        {data.trials.length === 0 ? (
          <p className="grid h-full place-content-center text-center text-soft">
            Keep an invented candidate or a story as a trial: it is then run on live and on every
            draft, before anything is published.
          </p>
        ) : (
          <Table
            label="Trials"
            heads={[
              "Trial",
              "Candidate or story",
              "On",
              "Must",
              drafting ? "In this draft" : "Live",
              "",
            ]}
          >
            {data.trials.map((trial) => (
              <tr key={trial.id} className="border-b border-line/60">
                <th scope="row" className="py-0.5 pr-3 font-medium">
                  {trial.title}
                </th>
                <td className="max-w-72 py-0.5 pr-3 font-mono break-words">
                  {trial.story || trial.candidate}
                  {trial.present && (
                    <span className="font-sans text-soft"> after {trial.present}</span>
                  )}
                </td>
                <td className="py-0.5 pr-3">
                  {WHOM[trial.kind]}
                  {trial.target_name}{" "}
                  <span className="text-soft">
                    {trial.accounts !== 1 && trial.accounts.toLocaleString("en")}
                  </span>
                </td>
                <td className="py-0.5 pr-3 whitespace-nowrap">
                  {MUST[trial.expected]}
                  {trial.rule && ` by ${trial.rule.replace("_", " ")}`}
                </td>
                <td className="py-0.5 pr-3">
                  <TrialState trial={trial} drafting={drafting} />
                </td>
                <td className="py-0.5 text-right">
                  <Button
                    hidden={!may("draft")}
                    tone="quiet"
                    className="px-1.5"
                    disabled={drop.isPending}
                    aria-label={`Drop the trial “${trial.title}”`}
                    onClick={() => drop.mutate(trial.id)}
                  >
                    ✕
                  </Button>
                </td>
              </tr>
            ))}
          </Table>
        )}
      </div>
    </div>
  );
}
