import { useBeside } from "../api/baselines";
import type { Schemas } from "../api/client";
import { Failure, Loading } from "../kit/Loading";

const CELL = "border-b border-line/60 px-2 py-1 align-top";

/** Two baselines side by side: what each asks of one thing, and which asks for more. */
export function BesideTable({ name, other }: { name: string; other: string }) {
  const found = useBeside(name, other);
  if (found.isPending) return <Loading what="both baselines" />;
  if (found.error) return <Failure error={found.error} retry={() => void found.refetch()} />;
  const { first, second, rows } = found.data;
  return (
    <div
      tabIndex={0}
      role="group"
      aria-label="Both baselines"
      className="min-h-0 flex-1 overflow-auto outline-offset-[-2px]"
    >
      <table className="w-full max-w-[1100px] min-w-[560px] border-separate border-spacing-0 text-sm">
        <caption className="sr-only">
          {first.title} beside {second.title}
        </caption>
        <thead>
          <tr className="text-left text-soft">
            {["About", first.title, second.title, ""].map((head, at) => (
              <th
                key={at}
                scope="col"
                className="sticky top-0 border-b border-line bg-paper px-2 pb-1 font-normal"
              >
                {head || <span className="sr-only">Which asks more</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.topic}>
              <th scope="row" className={`${CELL} w-40 text-left font-medium`}>
                {row.topic}
              </th>
              <Asked of={row.first} />
              <Asked of={row.second} />
              <td className={`${CELL} w-44 text-soft`}>{said(row.relation)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Asked({ of }: { of: Schemas["BesideRecommendation"][] }) {
  return (
    <td className={CELL}>
      {of.length === 0 && <span className="text-soft">nothing</span>}
      {of.map((one) => (
        <div key={one.text}>
          {one.text}
          <span className="block text-xs text-soft">
            for {one.who}: {one.wanted}
          </span>
        </div>
      ))}
    </td>
  );
}

const SAID: Record<Schemas["BesideRow"]["relation"], string> = {
  "the same": "= the same",
  "the first asks more": "◀ asks more",
  "the second asks more": "asks more ▶",
  "other things": "≠ other things",
  "for others": "for others",
  "only the first": "only here ◀",
  "only the second": "only here ▶",
};

const said = (relation: Schemas["BesideRow"]["relation"]) => SAID[relation];
