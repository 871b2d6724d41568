import type { ReactNode } from "react";
import { Swatch } from "../kit/Swatch";

interface Row {
  key: string;
  /** The policy's look; none for what is not one. */
  mark?: number | null;
  name: string;
  /** In which state it is meant. */
  as: string;
  cells: string[];
}

/** A plot's marks for those who read numbers. */
export function MarkedTable({
  heads,
  rows,
  children,
}: {
  heads: readonly string[];
  rows: Row[];
  /** What the numbers are about. */
  children: ReactNode;
}) {
  return (
    <table aria-label="The plot in numbers" className="w-full border-collapse text-left">
      <caption className="pb-1 text-left text-xs text-soft">{children}</caption>
      <thead>
        <tr className="border-b border-line text-soft">
          {["Policy", ...heads].map((head, n) => (
            <th key={head} scope="col" className={`pr-3 font-normal ${n ? "text-right" : ""}`}>
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.key} className="border-b border-line/60">
            <th scope="row" className="py-0.5 pr-3 font-medium">
              {row.mark !== undefined && <Swatch mark={row.mark} size={12} />} {row.name}
              <span className="font-normal text-soft">{row.as}</span>
            </th>
            {row.cells.map((cell, n) => (
              <td key={heads[n]} className="pr-3 text-right font-mono whitespace-nowrap">
                {cell}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
