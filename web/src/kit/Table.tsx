import type { ReactNode } from "react";

interface Props {
  label: string;
  /** The heads of the columns; "" for a column that needs none. */
  heads: string[];
  /** The rows: `tr` elements. */
  children: ReactNode;
}

/** A short table: every row is drawn. `VirtualTable` is for long ones. */
export function Table({ label, heads, children }: Props) {
  return (
    <table aria-label={label} className="w-full border-collapse text-left">
      <thead>
        <tr className="border-b border-line text-soft">
          {heads.map((head) =>
            head ? (
              <th key={head} scope="col" className="pr-3 pb-0.5 font-normal">
                {head}
              </th>
            ) : (
              <td key={head} />
            ),
          )}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </table>
  );
}
