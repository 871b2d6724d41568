import { useDeferredValue, useEffect, useState } from "react";
import { useParams } from "react-router";
import { accountsFile, useAccountPages } from "../api/accounts";
import { useStrata } from "../api/domains";
import { SidePanel } from "../kit/SidePanel";
import { useKeys } from "../app/useKeys";
import { domainOf } from "../draft/place";
import { announce } from "../shared/announce";
import { Button, ButtonLink } from "../kit/Button";
import { Failure } from "../kit/Loading";
import { plural } from "../shared/span";
import { useTitle } from "../shared/useTitle";
import { useAddress, useUrlState } from "../shared/useUrlState";
import { AccountCore } from "./AccountCore";
import { AccountsView } from "./AccountsView";
import { AccountTable } from "./AccountTable";
import { ColumnMenu } from "./ColumnMenu";
import { useColumns } from "./columns";
import { ComparePanel } from "./ComparePanel";
import { FilterMenu } from "./FilterMenu";
import { askedIn, FILTERS, queryOf, said, type FilterKey } from "./filters";
import { GroupPanel } from "./GroupPanel";
import { LockedView } from "./LockedView";
import { Select, TextInput } from "../kit/inputs";

/** Those that have a field of their own in the sentence. */
const FIELDS: FilterKey[] = ["q", "policy"];

export function AccountsScreen() {
  const { domain = "" } = useParams();
  const [params, change] = useAddress();
  const [q, setQ] = useUrlState("q");
  const [view] = useUrlState("view");
  const [account, setAccount] = useUrlState("account");
  const [beside] = useUrlState("beside");
  const [order, setOrder] = useUrlState("order");
  const [descending] = useUrlState("descending");
  const [first, setFirst] = useState(0);
  const [columns, choose] = useColumns();
  const strata = useStrata(domain);
  const asked = askedIn(params);
  const query = useDeferredValue(queryOf(asked, order, descending !== "").toString());
  // The first page is always held: it knows the total while others are on their way.
  const pages = [0, first - 1, first, first + 1].filter(
    (p, i, list) => p >= 0 && list.indexOf(p) === i,
  );
  const results = useAccountPages(domain, query, pages);
  const failed = results.find((r) => r.error);
  useKeys({ Escape: () => setAccount("", { beside: "" }) });
  useTitle(
    account && beside ? `${account} and ${beside}` : account || asked.group,
    "Accounts",
    domainOf(domain),
  );

  // Where one has gone on to a page that is still on its way, as many as there were.
  const answered = results.find((r) => r.data)?.data?.total;
  const about = `${domain}|${query}`;
  const [known, setKnown] = useState({ about: "", total: 0 });
  if (answered !== undefined && (known.about !== about || known.total !== answered))
    setKnown({ about, total: answered });
  const total = answered ?? (known.about === about ? known.total : undefined);
  useEffect(() => {
    if (total !== undefined) announce(plural(total, "account"), 600);
  }, [total, query]);
  const population = strata.data?.populations.find((p) => p.key === asked.population)?.label;
  const ask = (key: FilterKey, value: string) => {
    setFirst(0);
    change({ [key]: value });
  };
  const everyone = () => change(Object.fromEntries(FILTERS.map((key) => [key, ""])));
  const more = FILTERS.filter((key) => !FIELDS.includes(key) && asked[key] !== "");

  const panel = (
    <AccountPanels domain={domain} group={asked.group} onGroupClosed={() => ask("group", "")} />
  );
  if (view === "locked")
    return (
      <>
        <LockedView domain={domain} onAccount={setAccount} />
        {panel}
      </>
    );
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1 px-4 pt-2.5 pb-2 small:px-2 small:pt-1">
        <h1 className="mr-1 text-base">Accounts</h1>
        <AccountsView />
        <label className="flex min-w-0 items-center gap-1.5">
          <span className="shrink-0">named like</span>
          <TextInput
            type="search"
            className="w-40"
            value={q}
            placeholder="any name"
            maxLength={200}
            onChange={(event) => {
              setQ(event.target.value);
              setFirst(0);
            }}
          />
        </label>
        <label className="flex min-w-0 items-center gap-1.5">
          under
          <Select
            className="max-w-56"
            value={asked.policy}
            onChange={(event) => ask("policy", event.target.value)}
          >
            <option value="">any policy</option>
            {strata.data?.layers.map((layer) => (
              <option key={layer.guid} value={layer.guid}>
                {layer.name} ({layer.governed.toLocaleString("en")})
              </option>
            ))}
            <option value="domain">
              Domain policy ({strata.data?.bedrock.governed.toLocaleString("en") ?? "…"})
            </option>
          </Select>
        </label>
        {more.map((key) => (
          <span
            key={key}
            className="flex max-w-full items-center rounded-full border border-edge bg-white pl-2.5"
          >
            <span className="truncate" title={said(key, asked[key], population)}>
              {said(key, asked[key], population)}
            </span>
            <button
              type="button"
              className="min-h-6 px-2"
              aria-label={`Drop: ${said(key, asked[key], population)}`}
              onClick={() => ask(key, "")}
            >
              ✕
            </button>
          </span>
        ))}
        <FilterMenu domain={domain} asked={asked} onAsk={ask} />
        <span className="ml-auto flex items-center gap-2">
          <span className="text-soft">{total === undefined ? "…" : plural(total, "account")}</span>
          <ColumnMenu columns={columns} onChoose={choose} />
          <ButtonLink className="unprinted" href={accountsFile(domain, query)} download>
            Export as CSV
          </ButtonLink>
        </span>
      </div>
      {failed ? (
        <Failure error={failed.error} retry={() => void failed.refetch()} />
      ) : total === 0 ? (
        <div className="grid flex-1 place-content-center justify-items-center gap-2 text-center text-soft">
          <p>No account fits.</p>
          <Button onClick={everyone}>Show everyone</Button>
        </div>
      ) : (
        <AccountTable
          key={about}
          total={total ?? 0}
          pages={results.flatMap((r) => (r.data ? [r.data] : []))}
          columns={columns}
          order={order || "name"}
          descending={descending !== ""}
          onOrder={(by, down) =>
            setOrder(by === "name" ? "" : by, { descending: down ? "true" : "" })
          }
          selected={account}
          onSelect={setAccount}
          onPage={setFirst}
        />
      )}
      {panel}
    </div>
  );
}

/** The panel at the side: an account, two accounts side by side, or a group. */
function AccountPanels({
  domain,
  group,
  onGroupClosed,
}: {
  domain: string;
  group: string;
  onGroupClosed: () => void;
}) {
  const [account, setAccount] = useUrlState("account");
  const [beside, setBeside] = useUrlState("beside");
  return (
    <SidePanel about={account && beside ? `${account} ${beside}` : account || group}>
      {account && beside ? (
        <ComparePanel domain={domain} names={[account, beside]} onClose={() => setBeside("")} />
      ) : account ? (
        <AccountCore
          key={account}
          domain={domain}
          name={account}
          onClose={() => setAccount("")}
          onCompare={setBeside}
        />
      ) : group ? (
        <GroupPanel domain={domain} name={group} onClose={onGroupClosed} />
      ) : null}
    </SidePanel>
  );
}
