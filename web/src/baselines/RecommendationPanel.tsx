import { useState } from "react";
import { useCloseGap, useExceptions } from "../api/baselines";
import { useMay } from "../api/domains";
import type { Schemas } from "../api/client";
import { at } from "../draft/place";
import { AcceptForm } from "../shared/AcceptForm";
import { keptValue } from "../shared/kept";
import { announce } from "../shared/announce";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { PanelHead } from "../kit/PanelHead";
import { PartHead } from "../kit/PartHead";
import { SaidLine } from "../shared/SaidLine";
import { dayText } from "../shared/moments";
import { plural } from "../shared/span";
import { PolicyTag } from "../kit/Swatch";
import { MARKS, TONES } from "./states";

interface Props {
  domain: string;
  baseline: string;
  row: Schemas["BaselineRow"];
  onClose: () => void;
}

/** One recommendation: what it asks, why, what people notice, and what closes its gaps. */
export function RecommendationPanel({ domain, baseline, row, onClose }: Props) {
  return (
    <div>
      <PanelHead title={row.text} detail={`for ${row.who}`} onClose={onClose} />
      <div className="space-y-3 px-4 pb-4">
        <div>
          <p className={TONES[row.state]}>
            {MARKS[row.state]} {answerOf(row)}
          </p>
          {row.state_live !== null && (
            <p>
              In this draft; live it is {row.state_live}
              {row.not_met_live ? ` for ${plural(row.not_met_live, "account")}` : ""}.
            </p>
          )}
        </div>
        <dl className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-3 gap-y-1">
          <Term name="Wanted">{row.wanted}</Term>
          {row.measured && <Term name="Found">{row.measured}</Term>}
          <Term name="Why">{row.rationale}</Term>
          <Term name="People">{row.effect}</Term>
          <Term name="From">{row.source}</Term>
        </dl>
        <Exception domain={domain} baseline={baseline} row={row} />
        {row.gaps.length > 0 && (
          <section aria-label="Gaps">
            <PartHead>Where it is not met</PartHead>
            <ul>
              {row.gaps.map((gap) => (
                <Gap key={gap.policy} domain={domain} baseline={baseline} row={row} gap={gap} />
              ))}
            </ul>
          </section>
        )}
      </div>
    </div>
  );
}

/** That it is not followed, and why; or a way to say so where it is not. */
function Exception({ domain, baseline, row }: Omit<Props, "onClose">) {
  // Open again where a reason was begun.
  const [asking, setAsking] = useState(
    () => keptValue(domain, `exception ${baseline} ${row.key}`) !== undefined,
  );
  const { accept, withdraw } = useExceptions(domain, baseline);
  const may = useMay(domain);
  const { accepted } = row;
  if (accepted)
    return (
      <div>
        <p>
          Accepted as it is by {accepted.by} until {dayText(`${accepted.until}T00:00`)}:{" "}
          {accepted.reason}
        </p>
        {may("draft") && (
          <Button
            size="small"
            disabled={withdraw.isPending}
            onClick={() => withdraw.mutate(row.key)}
          >
            Withdraw
          </Button>
        )}
        <Refusal error={withdraw.error} />
      </div>
    );
  if (row.state !== "not met" || !may("draft")) return null;
  return (
    <div>
      <Button tone="quiet" size="small" aria-expanded={asking} onClick={() => setAsking(!asking)}>
        Accept as it is …
      </Button>
      {asking && (
        <AcceptForm
          work={{
            place: domain,
            about: `exception ${baseline} ${row.key}`,
            label: `Accepting that “${row.text}” is not followed`,
            to: `/${at(domain)}/baselines?baseline=${baseline}&recommendation=${row.key}`,
          }}
          accept={(said) => accept.mutateAsync({ recommendation: row.key, ...said })}
          write={accept}
          onDone={() => setAsking(false)}
        />
      )}
    </div>
  );
}

function Term({ name, children }: { name: string; children: string }) {
  return (
    <>
      <dt className="text-soft">{name}</dt>
      <dd className="break-words">{children}</dd>
    </>
  );
}

function answerOf(row: Schemas["BaselineRow"]): string {
  const { met, not_met, cannot_tell } = row;
  if (row.state === "met") return `Already met for ${plural(met, "account")}: nothing to do.`;
  if (row.state === "not applicable") return "Nobody here is meant.";
  const parts = [
    not_met > 0 && `not met for ${plural(not_met, "account")}`,
    cannot_tell > 0 && `cannot be told for ${plural(cannot_tell, "account")}`,
    met > 0 && `met for ${plural(met, "account")}`,
  ].filter(Boolean);
  const said = parts.join(", ");
  return `${said.charAt(0).toUpperCase()}${said.slice(1)}.`;
}

interface GapProps {
  domain: string;
  baseline: string;
  row: Schemas["BaselineRow"];
  gap: Schemas["BaselineGap"];
}

function Gap({ domain, baseline, row, gap }: GapProps) {
  const close = useCloseGap(domain, baseline);
  const may = useMay(domain);
  return (
    <li className="border-b border-line/60 py-1.5">
      <div className="flex items-center gap-2">
        <PolicyTag mark={gap.mark} name={gap.name} />
        <span className="ml-auto shrink-0 text-xs text-soft">
          {plural(gap.accounts, "account")}
        </span>
      </div>
      {gap.changes.length > 0 ? (
        <>
          <SaidLine said={gap.changes.map((one) => ({ ...one, subject: "" }))} />
          {may("draft") && (
            <Button
              size="small"
              className="mt-1"
              disabled={close.isPending}
              aria-label={`Close it in the draft: ${gap.name}`}
              onClick={() =>
                close.mutate(
                  { recommendation: row.key, policy: gap.policy },
                  { onSuccess: () => announce("It is in the draft.") },
                )
              }
            >
              Close it in the draft
            </Button>
          )}
        </>
      ) : (
        <p className="text-soft">
          No setting of the policy closes it: flags of the accounts themselves stand against it.
        </p>
      )}
      <Refusal error={close.error} />
    </li>
  );
}
