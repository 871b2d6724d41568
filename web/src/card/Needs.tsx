import type { Schemas } from "../api/client";

const RULE_SIGN = {
  passed: ["✓", "text-pass", "done: "],
  failed: ["✕", "text-fail", "missing: "],
  "not asked": ["–", "text-soft", ""],
  "not checkable": ["?", "text-warn", "cannot be checked here: "],
} as const;

type Status = keyof typeof RULE_SIGN;

interface Props {
  must: Schemas["CardLine"][];
  ways: Schemas["CardWay"][];
  /** What the rules say to what is typed; null while nothing is. */
  ticks: { rule: string; path: string; status: Status }[] | null;
}

/** What a new password needs, ticked off as it is typed. */
export function Needs({ must, ways, ticks }: Props) {
  const ruled = new Map(ticks?.filter((t) => !t.path).map((t) => [t.rule, t.status]));
  const statusOf = (path: string, number: number) =>
    ticks?.filter((t) => t.path === path)[number]?.status;
  if (must.length === 0 && ways.length === 0)
    return <p>Nothing is asked of it. Choose a long one all the same.</p>;
  return (
    <>
      <ul>
        {must.map((line) => (
          <Ticked key={line.rule} text={line.text} status={ruled.get(line.rule)} />
        ))}
      </ul>
      {ways.map((way, turn) => (
        <div key={way.path} className="mt-2">
          <h3 className="text-[15px] font-semibold">
            {ways.length === 1 ? "And also" : turn === 0 ? "And either" : "Or"}, as a {way.path}
          </h3>
          <ul>
            {way.lines.map((line, number) => (
              <Ticked key={number} text={line.text} status={statusOf(way.path, number)} />
            ))}
          </ul>
        </div>
      ))}
    </>
  );
}

function Ticked({ text, status }: { text: string; status: Status | undefined }) {
  const [sign, tone, words] = status ? RULE_SIGN[status] : ["☐", "text-soft", ""];
  return (
    <li className="grid grid-cols-[26px_minmax(0,1fr)] py-0.5">
      <span aria-hidden className={`font-semibold print:hidden ${tone}`}>
        {sign}
      </span>
      <span aria-hidden className="hidden text-soft print:inline">
        ☐
      </span>
      <span className="min-w-0 break-words">
        <span className="sr-only">{words}</span>
        {text}
      </span>
    </li>
  );
}

/** A few sentences under a title; nothing without any. */
export function Told({ title, lines }: { title: string; lines: string[] }) {
  if (lines.length === 0) return null;
  return (
    <section aria-label={title} className="mb-4">
      <h2 className="mb-1 text-[17px]">{title}</h2>
      {lines.map((line) => (
        <p key={line} className="py-0.5">
          {line}
        </p>
      ))}
    </section>
  );
}
