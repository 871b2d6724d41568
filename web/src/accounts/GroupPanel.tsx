import { Link } from "react-router";
import { useGroup } from "../api/accounts";
import { PanelHead } from "../kit/PanelHead";
import { useBench } from "../bench/BenchProvider";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { plural } from "../shared/span";
import { PolicyTag } from "../kit/Swatch";
import { at } from "../draft/place";
import { PartHead } from "../kit/PartHead";

/** A group's side: what is linked to it, and what its members really get. */
export function GroupPanel({
  domain,
  name,
  onClose,
}: {
  domain: string;
  name: string;
  onClose: () => void;
}) {
  const group = useGroup(domain, name);
  const { add } = useBench();
  if (group.isPending) return <Loading what={name} />;
  if (group.error) return <Failure error={group.error} retry={() => void group.refetch()} />;
  const { data } = group;
  const around = [
    data.nested.length > 0 && `Holds the groups ${data.nested.join(", ")}.`,
    data.inside.length > 0 && `Is itself in ${data.inside.join(", ")}.`,
  ].filter(Boolean);
  return (
    <article aria-label={`Group ${data.name}`}>
      <PanelHead
        title={data.name}
        detail={`${data.security ? `${data.scope} security group` : "distribution group"} · ${plural(data.direct, "direct member")}`}
        onClose={onClose}
      />
      <div className="space-y-4 px-4 pb-4">
        <p className="text-xs break-all text-soft">{data.dn}</p>
        {around.length > 0 && <p>{around.join(" ")}</p>}
        <section aria-label="Linked policies">
          <PartHead>Policies linked to it</PartHead>
          {data.links.length === 0 && <p className="pt-1 text-soft">None.</p>}
          <ul>
            {data.links.map((link) => (
              <li key={link.guid} className="border-b border-line/60 py-1">
                <Link
                  className="flex items-center gap-2 hover:underline"
                  to={`/${at(domain)}/strata?policy=${link.guid}`}
                >
                  <span className="w-8 text-right font-mono">{link.precedence}</span>
                  <PolicyTag mark={link.mark} name={link.name} />
                </Link>
                {link.trouble && (
                  <p className="text-xs text-warn">△ Reaches nobody: it is {link.trouble}.</p>
                )}
              </li>
            ))}
          </ul>
        </section>
        <section aria-label="What its members get">
          <PartHead>What its {plural(data.accounts, "account")} really get</PartHead>
          {data.shares.length === 0 && <p className="pt-1 text-soft">Nobody is in it.</p>}
          <ul>
            {data.shares.map((share) => (
              <li key={share.guid} className="border-b border-line/60 py-1">
                <Link
                  className="flex items-center gap-2 hover:underline"
                  to={`/${at(domain)}/accounts?group=${encodeURIComponent(data.name)}&policy=${share.guid}`}
                >
                  <PolicyTag mark={share.mark} name={share.name} />
                  <span className="ml-auto font-mono">{share.accounts.toLocaleString("en")}</span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
        {data.shares.length > 0 && (
          <Button
            title="One account for each policy that its members get"
            onClick={() => add(data.shares.slice(0, 4).map((share) => share.sample))}
          >
            Put on the bench
          </Button>
        )}
      </div>
    </article>
  );
}
