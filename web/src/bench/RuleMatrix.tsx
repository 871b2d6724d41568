import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { PolicyTag } from "../shared/Swatch";

type Rule = Schemas["RuleAnswer"];

const SIGN = { passed: "✓", failed: "✕", "not asked": "–", "not checkable": "?" } as const;
const TONE = { passed: "text-pass", failed: "text-fail", "not asked": "text-soft", "not checkable": "text-warn" } as const;

/** Rules down, accounts across: what was measured, what was wanted, and the repair. */
export function RuleMatrix({ domain, answer }: { domain: string; answer: Schemas["TrialAnswer"] | null }) {
  if (!answer) return null;
  const labels = answer.columns[0]?.rules.map((r) => ({ rule: r.rule, label: r.label })) ?? [];
  return (
    <>
      {answer.columns.length > 0 && (
        <table aria-label="Verdicts" className="w-full border-collapse text-left whitespace-nowrap">
          <thead>
            <tr className="border-b border-line align-bottom">
              <th scope="col" className="sticky left-0 w-32 bg-white pr-3 pb-1 font-normal text-soft">
                Rule
              </th>
              {answer.columns.map((column) => (
                <th key={column.account} scope="col" className="min-w-36 pr-3 pb-1 font-medium">
                  <Link className="block truncate hover:underline" to={`/${domain}/accounts?account=${encodeURIComponent(column.account)}`}>
                    {column.account}
                  </Link>
                  <span className="block text-xs font-normal">
                    <PolicyTag mark={column.mark} name={column.policy_name} />
                  </span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {labels.map(({ rule, label }) => (
              <tr key={rule} className="border-b border-line/60">
                <th scope="row" className="sticky left-0 bg-white py-[3px] pr-3 font-normal">
                  {label}
                </th>
                {answer.columns.map((column) => {
                  const said = column.rules.find((r) => r.rule === rule);
                  return (
                    <td key={column.account} className="py-[3px] pr-3">
                      {said && <Said said={said} />}
                    </td>
                  );
                })}
              </tr>
            ))}
            <tr>
              <th scope="row" className="sticky left-0 bg-white py-[3px] font-semibold">
                Verdict
              </th>
              {answer.columns.map((column) => (
                <td key={column.account} className={`py-[3px] font-semibold ${column.accepted ? (column.certain ? "text-pass" : "text-warn") : "text-fail"}`}>
                  {column.accepted ? (column.certain ? "Accepted" : "Accepted, as far as can be checked") : "Refused"}
                </td>
              ))}
            </tr>
          </tbody>
        </table>
      )}
      {answer.unknown.length > 0 && <p className="pt-1 text-warn">△ Not in this domain any more: {answer.unknown.join(", ")}.</p>}
      {answer.lenient_elsewhere && (
        <p className="pt-1 text-xs text-soft">Some of its characters count for no group by the specification; some servers are more lenient and count them.</p>
      )}
    </>
  );
}

function Said({ said }: { said: Rule }) {
  return (
    <span className={TONE[said.status]}>
      <span aria-hidden>{SIGN[said.status]} </span>
      <span className="sr-only">{said.status}: </span>
      {said.detail}
      {said.repair && ` · ${said.repair}`}
    </span>
  );
}
