import { memo } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { at } from "../draft/place";
import { plural } from "../shared/span";
import { shortened, type Column } from "./columns";

interface Props {
  domain: string;
  columns: Column[];
  /** What the names of all groups begin with, which is said once. */
  prefix: string;
  /** The populations that have a column because somebody asked for them. */
  chosen: ReadonlySet<string>;
  /** What a weighed change moves, by population. */
  moves: ReadonlyMap<string, Schemas["MoveInfo"]>;
  /** How many populations have no column. */
  more: number;
  /** Gives every listed population a column; undefined where each has a column. */
  onMore: (() => void) | undefined;
  onRead: (sentence: string) => void;
  height: number;
}

/** Who stands in the columns. */
export const SectionHead = memo(function SectionHead({
  domain,
  columns,
  prefix,
  chosen,
  moves,
  more,
  onMore,
  onRead,
  height,
}: Props) {
  return (
    <thead className="sticky top-0 z-20 bg-paper">
      <tr style={{ height }}>
        <th
          scope="col"
          className="sticky left-0 z-20 bg-paper pb-1 text-left align-bottom text-xs font-normal text-soft"
        >
          {prefix ? `Populations, by their groups (${prefix}…)` : "Populations, by their groups"}
        </th>
        {columns.map((column) => (
          <HeadCell
            key={column.population.key}
            domain={domain}
            column={column}
            name={shortened(column.population.who, prefix)}
            chosen={chosen.has(column.population.key)}
            move={moves.get(column.population.key)}
            onRead={onRead}
          />
        ))}
        {more > 0 && (
          <th scope="col" className="relative align-bottom">
            {onMore ? (
              <button className="pb-1 text-xs font-normal underline" onClick={onMore}>
                {more.toLocaleString("en")} more
              </button>
            ) : (
              <span
                className="inline-block pb-1 text-xs font-normal text-soft"
                title={`${plural(more, "population")} too small for a column`}
              >
                {more.toLocaleString("en")} more
              </span>
            )}
          </th>
        )}
      </tr>
    </thead>
  );
});

/**
 * Who stands in a column, level and in two lines at most; what is cut stands whole in the title and
 * the reading line.
 */
function HeadCell({
  domain,
  column,
  name,
  chosen,
  move,
  onRead,
}: {
  domain: string;
  column: Column;
  name: string;
  chosen: boolean;
  move?: Schemas["MoveInfo"];
  onRead: (s: string) => void;
}) {
  const { population } = column;
  const sentence = `${population.who}: ${plural(population.count, "account")}, ${population.label}. Enter shows them.`;
  const badge =
    "absolute inset-x-0.5 -bottom-[17px] z-10 truncate rounded-b-sm text-center font-mono text-[11px]";
  return (
    <th
      scope="col"
      className={`relative border-b-2 px-0.5 pb-1 align-bottom font-normal ${chosen ? "border-warn" : "border-ink"}`}
    >
      <Link
        to={`/${at(domain)}/accounts?population=${population.key}`}
        title={population.who}
        className={`relative line-clamp-2 text-center text-[11px] leading-[14px] [overflow-wrap:anywhere] hover:underline ${chosen || move ? "font-semibold" : ""}`}
        onFocus={() => onRead(sentence)}
        onMouseEnter={() => onRead(sentence)}
      >
        {breakable(name)}
        <span className="sr-only">
          : {plural(population.count, "account")}, {population.label}. Enter shows them.
        </span>
      </Link>
      {!move && population.moved > 0 && (
        <span
          className={`${badge} border border-t-0 border-warn bg-warnbg text-warn`}
          title={`${plural(population.moved, "account")} of it with another policy than live`}
        >
          {population.moved.toLocaleString("en")}
          <span className="sr-only"> with another policy than live</span>
        </span>
      )}
      {move && (
        <span
          className={`${badge} bg-warn text-white`}
          title={`${plural(move.accounts, "account")} would change policy`}
        >
          {move.accounts.toLocaleString("en")}
        </span>
      )}
    </th>
  );
}

/** A name that may be broken after its hyphens and between its words. */
const breakable = (name: string) =>
  name.split(/(?<=[-_. ])/).map((part, n) => (
    <span key={n}>
      {n > 0 && <wbr />}
      {part}
    </span>
  ));
