import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useAccept, useWithdraw } from "../api/findings";
import { useMend } from "../api/policies";
import { AcceptForm } from "../shared/AcceptForm";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { dayText } from "../shared/moments";
import { keptValue } from "../shared/kept";
import { plural } from "../shared/span";
import { at } from "../draft/place";
import { useMay } from "../api/domains";

const SIGN = {
  high: { sign: "▲", word: "grave", tone: "text-fail" },
  medium: { sign: "△", word: "medium", tone: "text-warn" },
  low: { sign: "○", word: "minor", tone: "text-soft" },
} as const;

/** One finding: whom it concerns, why it matters, and what can be done about it here. */
export function FindingItem({
  domain,
  finding,
}: {
  domain: string;
  finding: Schemas["FindingInfo"];
}) {
  // Open again where a reason was begun.
  const [accepting, setAccepting] = useState(
    () => keptValue(domain, `finding ${finding.key}`) !== undefined,
  );
  const mend = useMend(domain);
  const may = useMay(domain);
  const accept = useAccept(domain);
  const withdraw = useWithdraw(domain);
  const { sign, word, tone } = SIGN[finding.severity];
  const fix = finding.mend;
  return (
    <li className="border-t border-line px-4 py-2">
      <h3 className="font-sans text-sm leading-[18px] font-semibold">
        <span aria-hidden className={`mr-1.5 ${tone}`}>
          {sign}
        </span>
        <span className="sr-only">{word}: </span>
        {finding.title}
      </h3>
      <p className="text-xs leading-[17px]">{finding.why}</p>
      <p className="text-xs text-soft">
        {[
          finding.accounts > 0 && plural(finding.accounts, "account"),
          finding.accepted &&
            `accepted by ${finding.accepted.by} until ${dayText(`${finding.accepted.until}T00:00`)}: ${finding.accepted.reason}`,
        ]
          .filter(Boolean)
          .join(" · ")}
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1 text-xs">
        {finding.policy && (
          <Link
            className="inline-flex h-6 items-center underline"
            to={`/${at(domain)}/strata?policy=${finding.policy}`}
          >
            Open the policy
          </Link>
        )}
        {finding.account && (
          <Link
            className="inline-flex h-6 items-center underline"
            to={`/${at(domain)}/accounts?account=${encodeURIComponent(finding.account)}`}
          >
            {finding.account}
          </Link>
        )}
        {fix && !finding.accepted && may("draft") && (
          <Button size="small" disabled={mend.isPending} onClick={() => mend.mutate(fix)}>
            {fix.label}
          </Button>
        )}
        {!may("draft") ? null : finding.accepted ? (
          <Button size="small" onClick={() => withdraw.mutate(finding.key)}>
            Withdraw
          </Button>
        ) : (
          <Button
            tone="quiet"
            size="small"
            aria-expanded={accepting}
            onClick={() => setAccepting(!accepting)}
          >
            Accept …
          </Button>
        )}
      </div>
      <Refusal error={mend.error} />
      {accepting && (
        <AcceptForm
          work={{
            place: domain,
            about: `finding ${finding.key}`,
            label: `Accepting “${finding.title}”`,
            to: `/${at(domain)}/strata?policy=findings`,
          }}
          accept={(said) => accept.mutateAsync({ key: finding.key, ...said })}
          write={accept}
          onDone={() => setAccepting(false)}
        />
      )}
    </li>
  );
}
