import { Fragment } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useEnforced } from "../api/gate";
import { ENFORCED } from "../gate/kinds";
import { Word } from "../shared/Word";
import { PolicyTag } from "../kit/Swatch";
import { at } from "../draft/place";

type Column = Schemas["AttemptColumn"];
type Rule = Schemas["RuleAnswer"];
type Answer = Schemas["AttemptAnswer"];

/** One account's verdict on one side, or on both. */
interface Pair {
  key: string;
  live: Column | null;
  draft: Column | null;
}

const SIGN = { passed: "✓", failed: "✕", "not asked": "–", "not checkable": "?" } as const;
const TONE = {
  passed: "text-pass",
  failed: "text-fail",
  "not asked": "text-soft",
  "not checkable": "text-warn",
} as const;

const PATHS: { path: Rule["path"]; title: string }[] = [
  { path: "password", title: "As a password" },
  { path: "phrase", title: "As a phrase" },
];

const keyOf = (column: Column) => column.account ?? column.policy;

function paired(live: Answer | null, draft: Answer | null): Pair[] {
  const drafted = new Map(draft?.columns.map((c) => [keyOf(c), c]));
  const pairs = (live?.columns ?? []).map((c): Pair => ({
    key: keyOf(c),
    live: c,
    draft: drafted.get(keyOf(c)) ?? null,
  }));
  const known = new Set(pairs.map((p) => p.key));
  return [
    ...pairs,
    ...(draft?.columns ?? [])
      .filter((c) => !known.has(keyOf(c)))
      .map((c): Pair => ({ key: keyOf(c), live: null, draft: c })),
  ];
}

/**
 * Rules down, accounts across: what was measured, what was wanted and the repair; live beside the
 * draft where both are asked.
 */
export function RuleMatrix({
  place,
  live,
  draft,
}: {
  place: string;
  live: Answer | null;
  draft: Answer | null;
}) {
  const enforced = useEnforced(place);
  const answer = draft ?? live;
  if (!answer) return null;
  const both = live !== null && draft !== null;
  const pairs = paired(live, draft);
  const columns = pairs.flatMap((p) => [p.live, p.draft]).filter((c) => c !== null);
  const natives = new Map(
    columns.flatMap((c) => c.rules.filter((r) => !r.path).map((r) => [r.rule, r.label])),
  );
  const paths = PATHS.map(({ path, title }) => ({
    path,
    title,
    rows: rowsOf(columns, path),
  })).filter(({ rows }) => rows.length > 0);
  return (
    <>
      {pairs.length > 0 && (
        <table aria-label="Verdicts" className="w-full border-collapse text-left">
          <thead>
            <tr className="border-b border-line align-bottom whitespace-nowrap">
              <th
                scope="col"
                className="sticky left-0 z-10 w-32 bg-white pr-3 font-normal text-soft"
              >
                Rule
              </th>
              {pairs.map((pair) => (
                <Head key={pair.key} place={place} pair={pair} />
              ))}
            </tr>
          </thead>
          <tbody>
            <Row label="Verdict" strong>
              {pairs.map((pair) => (
                <Cell
                  key={pair.key}
                  pair={pair}
                  both={both}
                  same={(a, b) => outcome(a) === outcome(b)}
                  show={(column) => <Outcome column={column} />}
                />
              ))}
            </Row>
            {[...natives].map(([rule, label]) => (
              <Row
                key={rule}
                label={rule === "audit_length" ? <Word of="audit">{label}</Word> : label}
              >
                {pairs.map((pair) => (
                  <Cell
                    key={pair.key}
                    pair={pair}
                    both={both}
                    same={(a, b) =>
                      said(a, rule)?.detail === said(b, rule)?.detail &&
                      said(a, rule)?.status === said(b, rule)?.status
                    }
                    show={(column) => <Said rule={said(column, rule)} />}
                  />
                ))}
              </Row>
            ))}
            {paths.length > 0 && (
              <tr className="border-b border-ink">
                <th
                  scope="rowgroup"
                  colSpan={pairs.length + 1}
                  className="sticky left-0 pt-1 text-xs font-normal text-soft"
                >
                  The directory judges what stands above this line, Hornfels what stands below: all
                  of one path has to be kept. {ENFORCED[enforced]}
                </th>
              </tr>
            )}
            {paths.map(({ path, title, rows }) => (
              <Fragment key={path}>
                <Row label={title} strong>
                  {pairs.map((pair) => (
                    <Cell
                      key={pair.key}
                      pair={pair}
                      both={both}
                      same={(a, b) => pathOutcome(a, path) === pathOutcome(b, path)}
                      show={(column) => <PathOutcome of={pathOutcome(column, path)} />}
                    />
                  ))}
                </Row>
                {rows.map((row) => (
                  <Row key={row.key} label={row.label}>
                    {pairs.map((pair) => (
                      <Cell
                        key={pair.key}
                        pair={pair}
                        both={both}
                        same={(a, b) =>
                          besides(a, path, row)?.detail === besides(b, path, row)?.detail &&
                          besides(a, path, row)?.status === besides(b, path, row)?.status
                        }
                        show={(column) => <Said rule={besides(column, path, row)} />}
                      />
                    ))}
                  </Row>
                ))}
              </Fragment>
            ))}
            <Row label="They are told">
              {pairs.map((pair) => (
                <Cell
                  key={pair.key}
                  pair={pair}
                  both={both}
                  same={(a, b) => a.told === b.told}
                  show={(column) => <span className="text-xs">{column.told}</span>}
                />
              ))}
            </Row>
          </tbody>
        </table>
      )}
      {answer.unknown.length > 0 && (
        <p className="pt-1 text-warn">
          △ Not in this domain{both ? " or draft" : ""}: {answer.unknown.join(", ")}.
        </p>
      )}
      {answer.lenient_elsewhere && (
        <p className="pt-1 text-xs text-soft">
          Some of its characters count for no group by the specification; some servers are more
          lenient and count them.
        </p>
      )}
    </>
  );
}

function Head({ place, pair }: { place: string; pair: Pair }) {
  const column = pair.draft ?? pair.live;
  if (!column) return null;
  const moved = pair.live && pair.draft && pair.live.policy !== pair.draft.policy;
  return (
    <th scope="col" className="min-w-44 pr-3 font-medium">
      <span className="flex flex-wrap items-baseline gap-x-2">
        {column.account ? (
          <Link
            className="hover:underline"
            to={`/${at(place)}/accounts?account=${encodeURIComponent(column.account)}`}
          >
            {column.account}
          </Link>
        ) : (
          "Anybody under"
        )}
        <span className="flex gap-1.5 text-xs font-normal">
          {moved && pair.live && (
            <>
              <PolicyTag mark={pair.live.mark} name={pair.live.policy_name} /> →
            </>
          )}
          <PolicyTag mark={column.mark} name={column.policy_name} />
        </span>
        {column.flags.map((flag) => (
          <span key={flag.flag} className="text-xs font-normal text-warn" title={flag.effect}>
            △ {flag.flag}
          </span>
        ))}
      </span>
    </th>
  );
}

function Row({
  label,
  strong,
  children,
}: {
  label: React.ReactNode;
  strong?: boolean;
  children: React.ReactNode;
}) {
  return (
    <tr className="border-b border-line/60 align-top">
      <th
        scope="row"
        className={`sticky left-0 z-10 bg-white py-px pr-3 whitespace-nowrap ${strong ? "font-semibold" : "font-normal"}`}
      >
        {label}
      </th>
      {children}
    </tr>
  );
}

/** What is said of one account; where live and draft differ, both, one below the other. */
function Cell({
  pair,
  both,
  same,
  show,
}: {
  pair: Pair;
  both: boolean;
  same: (a: Column, b: Column) => boolean;
  show: (column: Column) => React.ReactNode;
}) {
  const { live, draft } = pair;
  const only = draft ?? live;
  if (!only) return null;
  if (!both || (live && draft && same(live, draft)))
    return <td className="py-px pr-3">{show(only)}</td>;
  return (
    <td className="py-px pr-3">
      <div className="-ml-1.5 rounded bg-warnbg px-1.5">
        {[
          { side: "live", column: live },
          { side: "draft", column: draft },
        ].map(({ side, column }) => (
          <div key={side} className="grid grid-cols-[36px_minmax(0,1fr)]">
            <span className="text-xs leading-[18px] text-soft">{side}</span>
            <span>{column ? show(column) : "not there"}</span>
          </div>
        ))}
      </div>
    </td>
  );
}

const said = (column: Column, rule: string): Rule | undefined =>
  column.rules.find((r) => r.rule === rule && !r.path);

/** A rule of an addition in the table: the same kind can be asked for several times on a path. */
interface BesideRow {
  key: string;
  rule: string;
  label: string;
  turn: number;
}

function rowsOf(columns: Column[], path: Rule["path"]): BesideRow[] {
  const rows = new Map<string, BesideRow>();
  for (const column of columns) {
    const turns = new Map<string, number>();
    for (const { rule, label } of column.rules.filter((r) => r.path === path)) {
      const turn = turns.get(`${rule} ${label}`) ?? 0;
      turns.set(`${rule} ${label}`, turn + 1);
      const key = `${rule} ${label} ${turn}`;
      if (!rows.has(key)) rows.set(key, { key, rule, label, turn });
    }
  }
  return [...rows.values()];
}

const besides = (column: Column, path: Rule["path"], row: BesideRow): Rule | undefined =>
  column.rules.filter((r) => r.path === path && r.rule === row.rule && r.label === row.label)[
    row.turn
  ];

type PathSaid = "kept" | "not kept" | "not all checked" | "not asked";

function pathOutcome(column: Column, path: Rule["path"]): PathSaid {
  const rules = column.rules.filter((r) => r.path === path);
  if (rules.length === 0) return "not asked";
  if (rules.some((r) => r.status === "failed")) return "not kept";
  return rules.some((r) => r.status === "not checkable") ? "not all checked" : "kept";
}

const PATH_SIGN: Record<PathSaid, [sign: string, tone: string]> = {
  kept: ["✓", "text-pass"],
  "not kept": ["✕", "text-fail"],
  "not all checked": ["?", "text-warn"],
  "not asked": ["–", "text-soft"],
};

function PathOutcome({ of }: { of: PathSaid }) {
  const [sign, tone] = PATH_SIGN[of];
  return (
    <span className={`font-semibold ${tone}`}>
      <span aria-hidden>{sign} </span>
      {of}
    </span>
  );
}

const outcome = (column: Column) =>
  column.accepted ? (column.certain ? "Accepted" : "Accepted, not all checked") : "Refused";

function Outcome({ column }: { column: Column }) {
  const tone = column.accepted ? (column.certain ? "text-pass" : "text-warn") : "text-fail";
  return (
    <span className={`font-semibold ${tone}`}>
      <span aria-hidden>{column.accepted ? (column.certain ? "✓" : "?") : "✕"} </span>
      {outcome(column)}
    </span>
  );
}

function Said({ rule }: { rule: Rule | undefined }) {
  if (!rule) return <span className="text-soft">– not asked</span>;
  return (
    <span className={rule.noted ? "text-warn" : TONE[rule.status]}>
      <span aria-hidden>{rule.noted ? "△" : SIGN[rule.status]} </span>
      <span className="sr-only">{rule.noted ? "noted" : rule.status}: </span>
      {rule.detail}
      {rule.repair && ` · ${rule.repair}`}
    </span>
  );
}
