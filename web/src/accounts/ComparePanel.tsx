import type { Schemas } from "../api/client";
import { useAccount } from "../api/accounts";
import { useCatalogue } from "../api/policies";
import { PanelHead } from "../kit/PanelHead";
import { valueWithUnit, type Value } from "../editor/edits";
import { useBench } from "../bench/BenchProvider";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { momentText } from "../shared/moments";
import { PolicyTag } from "../kit/Swatch";

type Core = Schemas["AccountCore"];

/** Two accounts side by side; what differs stands out. */
export function ComparePanel({
  domain,
  names,
  onClose,
}: {
  domain: string;
  names: [string, string];
  onClose: () => void;
}) {
  const { add } = useBench();
  const one = useAccount(domain, names[0]);
  const other = useAccount(domain, names[1]);
  const catalogue = useCatalogue();
  const error = one.error ?? other.error;
  if (error) return <Failure error={error} />;
  if (!one.data || !other.data || !catalogue.data) return <Loading what="both accounts" />;
  const both: [Core, Core] = [one.data, other.data];
  const held = (core: Core, key: string) =>
    core.settings.find((s) => s.key === key)?.value as Value;
  const expires = (core: Core) =>
    core.expiry === "at" ? momentText(core.expires_at) : core.expiry;
  const rows: [string, string, string][] = [
    ["Why", both[0].reason, both[1].reason],
    ...catalogue.data.map((s): [string, string, string] => [
      s.label,
      valueWithUnit(s, held(both[0], s.key)),
      valueWithUnit(s, held(both[1], s.key)),
    ]),
    ["Password set", momentText(both[0].password_set), momentText(both[1].password_set)],
    ["Expires", expires(both[0]), expires(both[1])],
    ["Locked", both[0].locked ? "yes" : "no", both[1].locked ? "yes" : "no"],
    [
      "Flags",
      both[0].flags.map((f) => f.flag).join(", ") || "none",
      both[1].flags.map((f) => f.flag).join(", ") || "none",
    ],
  ];
  return (
    <section aria-label="Comparison">
      <PanelHead title="Side by side" detail="What differs is marked ≠" onClose={onClose} />
      <Button className="mx-4 mb-2" onClick={() => add(names)}>
        Put both on the bench
      </Button>
      <table className="mx-4 w-[calc(100%-32px)] table-fixed text-left text-xs">
        <thead>
          <tr className="border-b border-line align-bottom">
            <th scope="col" className="w-28 py-1 font-normal text-soft">
              Of the account
            </th>
            {both.map((core) => (
              <th key={core.name} scope="col" className="py-1 pr-2">
                <span className="block truncate text-sm" title={core.name}>
                  {core.name}
                </span>
                <span className="font-normal">
                  <PolicyTag mark={core.mark} name={core.policy_name} />
                </span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(([label, a, b]) => (
            <tr key={label} className="border-b border-line/60 align-top">
              <th scope="row" className="py-1 font-normal">
                {a !== b && <span className="text-warn">≠ </span>}
                {label}
              </th>
              <td className={`py-1 pr-2 ${a !== b ? "font-medium" : "text-soft"}`}>{a}</td>
              <td className={`py-1 ${a !== b ? "font-medium" : "text-soft"}`}>{b}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
