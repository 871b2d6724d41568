import { useDeferredValue, useState } from "react";
import { useParams } from "react-router";
import { useAccountPages, useStrata } from "../api/queries";
import { SidePanel } from "../app/SidePanel";
import { useKeys } from "../app/useKeys";
import { Button, Failed } from "../shared/controls";
import { useUrlState } from "../shared/useUrlState";
import { AccountCore } from "./AccountCore";
import { AccountTable } from "./AccountTable";
import { ComparePanel } from "./ComparePanel";
import { GroupPanel } from "./GroupPanel";

export function AccountsScreen() {
  const { domain = "" } = useParams();
  const [q, setQ] = useUrlState("q");
  const [policy, setPolicy] = useUrlState("policy");
  const [population, setPopulation] = useUrlState("population");
  const [group, setGroup] = useUrlState("group");
  const [account, setAccount] = useUrlState("account");
  const [beside, setBeside] = useUrlState("beside");
  const [first, setFirst] = useState(0);
  const strata = useStrata(domain);
  const filter = { q: useDeferredValue(q.trim()), policy, population, group };
  // The first page is always held: it knows the total while others are on their way.
  const pages = [0, first - 1, first, first + 1].filter((p, i, list) => p >= 0 && list.indexOf(p) === i);
  const results = useAccountPages(domain, filter, pages);
  const failed = results.find((r) => r.error);
  useKeys({ Escape: () => setAccount("", { beside: "" }) });

  const total = results.find((r) => r.data)?.data?.total;
  const chosen = strata.data?.populations.find((p) => p.key === population);

  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 px-4 pt-2.5 pb-2">
        <h1 className="mr-2 text-base">Accounts</h1>
        <label className="flex items-center gap-1.5">
          named like
          <input
            type="search"
            className="h-7 w-44 rounded-[5px] border border-edge px-2"
            value={q}
            placeholder="any name"
            onChange={(event) => {
              setQ(event.target.value);
              setFirst(0);
            }}
          />
        </label>
        <label className="flex items-center gap-1.5">
          under
          <select
            className="h-7 rounded-[5px] border border-edge px-1.5"
            value={policy}
            onChange={(event) => {
              setPolicy(event.target.value, { population: "" });
              setFirst(0);
            }}
          >
            <option value="">any policy</option>
            {strata.data?.layers.map((layer) => (
              <option key={layer.guid} value={layer.guid}>
                {layer.name} ({layer.governed.toLocaleString("en")})
              </option>
            ))}
            <option value="domain">Domain policy ({strata.data?.bedrock.governed.toLocaleString("en") ?? "…"})</option>
          </select>
        </label>
        {group && (
          <span className="flex items-center rounded-full border border-edge bg-white pl-2.5 text-sm">
            in {group}
            <button className="px-2 py-0.5" aria-label="Drop the group filter" onClick={() => setGroup("")}>
              ✕
            </button>
          </span>
        )}
        {population && (
          <span className="flex items-center rounded-full border border-edge bg-white pl-2.5 text-sm">
            in the population {chosen ? chosen.label : "that is gone"}
            <button className="px-2 py-0.5" aria-label="Drop the population filter" onClick={() => setPopulation("")}>
              ✕
            </button>
          </span>
        )}
        <span role="status" className="ml-auto text-soft">
          {total === undefined ? "…" : total === 1 ? "1 account" : `${total.toLocaleString("en")} accounts`}
        </span>
      </div>
      {failed ? (
        <Failed error={failed.error} retry={() => void failed.refetch()} />
      ) : total === 0 ? (
        <div className="grid flex-1 place-content-center gap-2 text-center text-soft">
          <p>No account fits.</p>
          <Button onClick={() => setQ("", { policy: "", population: "", group: "" })}>Show everyone</Button>
        </div>
      ) : (
        <AccountTable
          key={`${domain}|${filter.q}|${policy}|${population}|${group}`}
          total={total ?? 0}
          pages={results.flatMap((r) => (r.data ? [r.data] : []))}
          selected={account}
          onSelect={setAccount}
          onPage={setFirst}
        />
      )}
      <SidePanel>
        {account && beside ? (
          <ComparePanel domain={domain} names={[account, beside]} onClose={() => setBeside("")} />
        ) : account ? (
          <AccountCore key={account} domain={domain} name={account} onClose={() => setAccount("")} onCompare={setBeside} />
        ) : group ? (
          <GroupPanel domain={domain} name={group} onClose={() => setGroup("")} />
        ) : null}
      </SidePanel>
    </div>
  );
}
