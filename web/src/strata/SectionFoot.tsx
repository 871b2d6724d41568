import { memo } from "react";
import type { Schemas } from "../api/client";
import { lookOf } from "../shared/look";
import { plural } from "../shared/span";
import type { Column } from "./columns";
import { HiddenMark } from "./HiddenMark";

interface Props {
  bedrock: Schemas["Strata"]["bedrock"];
  columns: Column[];
  /** Accounts in populations without a column, and those under the domain policy; null if each
   * population has a column. */
  others: { accounts: number; underDomainPolicy: number } | null;
  /** Its row among those of the section. */
  row: number;
  /** The column in this row that Tab reaches, −1 for none. */
  tab: number;
  height: number;
  onSelect: (guid: string) => void;
}

const COUNTS = 22;

/** Bedrock under all layers, and how many accounts each column stands for. */
export const SectionFoot = memo(function SectionFoot({
  bedrock,
  columns,
  others,
  row,
  tab,
  height,
  onSelect,
}: Props) {
  const place = (column: number) => ({
    "data-at": `${row}:${column}`,
    tabIndex: tab === column ? 0 : -1,
  });
  return (
    <tfoot className="sticky bottom-0 z-20">
      <tr style={{ height }} aria-rowindex={row + 2}>
        <th scope="row" className="sticky left-0 z-10 bg-bed p-0 text-left font-normal">
          <button
            {...place(0)}
            title={`The domain policy, ${bedrock.summary}, holds for ${plural(bedrock.governed, "account")}.`}
            className="block w-full px-2.5 text-left"
            onClick={() => onSelect("domain")}
          >
            <span className="block truncate leading-4 font-semibold">Bedrock: domain policy</span>
            <span className="block truncate text-xs text-soft">
              {bedrock.summary} ·{" "}
              {plural(bedrock.sources.filter((s) => s.at_root).length, "source")}
            </span>
          </button>
        </th>
        {columns.map((column, number) => (
          <BedrockCell key={column.population.key} column={column} place={place(number + 1)} />
        ))}
        {others !== null && (
          <HiddenUnderDomainPolicy
            accounts={others.underDomainPolicy}
            place={place(columns.length + 1)}
          />
        )}
      </tr>
      <tr style={{ height: COUNTS }} className="bg-paper">
        <th
          scope="row"
          className="sticky left-0 z-10 bg-paper px-2.5 text-left text-xs font-normal text-soft"
        >
          Accounts
        </th>
        {columns.map(({ population }) => (
          <td key={population.key} className="bg-paper text-center font-mono text-xs text-soft">
            {population.count.toLocaleString("en")}
          </td>
        ))}
        {others !== null && (
          <td className="bg-paper text-center font-mono text-xs text-soft">
            {others.accounts.toLocaleString("en")}
          </td>
        )}
      </tr>
    </tfoot>
  );
});

type Place = { "data-at": string; tabIndex: number };

function BedrockCell({ column, place }: { column: Column; place: Place }) {
  const { population } = column;
  const holds = population.winner === "domain";
  const sentence = holds
    ? population.source === "exempt"
      ? `${plural(population.count, "account")}: exempt from fine-grained policies, so the domain policy holds.`
      : `${plural(population.count, "account")}: no policy reaches them, so the domain policy holds.`
    : `${plural(population.count, "account")}: a policy above takes them.`;
  return (
    <td className="bg-bed p-0.5">
      <div
        {...place}
        role="img"
        aria-label={sentence}
        className={`h-[32px] rounded-[3px] ${holds ? "" : "border border-dashed border-edge"}`}
        style={holds ? { backgroundImage: lookOf(null).solid } : undefined}
      />
    </td>
  );
}

function HiddenUnderDomainPolicy({ accounts, place }: { accounts: number; place: Place }) {
  return (
    <td className="bg-bed p-0.5">
      <div
        {...place}
        role="img"
        aria-label={`The domain policy applies to ${plural(accounts, "account")} in populations without a column.`}
        className="h-[32px]"
      >
        <HiddenMark mark={null} governed={accounts} reached={accounts} />
      </div>
    </td>
  );
}
