import type { ComponentProps, ReactNode } from "react";

/** One of several numbers under each other, and what there are so many of. */
export function Count({ many, children }: { many: number; children: ReactNode }) {
  return (
    <li className="flex gap-2 py-0.5">
      <span className="w-18 shrink-0 text-right font-mono">{many.toLocaleString("en")}</span>
      <span className="min-w-0">{children}</span>
    </li>
  );
}

interface Props extends ComponentProps<"ul"> {
  counts: readonly (readonly [what: string, many: number])[];
}

/** Several of them, but for those of which there are none. */
export function Counts({ counts, ...list }: Props) {
  return (
    <ul {...list}>
      {counts
        .filter(([, many]) => many > 0)
        .map(([what, many]) => (
          <Count key={what} many={many}>
            {what}
          </Count>
        ))}
    </ul>
  );
}
