import type { ReactNode } from "react";

/** One of several numbers under each other, and what there are so many of. */
export function Count({ many, children }: { many: number; children: ReactNode }) {
  return (
    <li className="flex gap-2 py-0.5">
      <span className="w-18 shrink-0 text-right font-mono">{many.toLocaleString("en")}</span>
      <span className="min-w-0">{children}</span>
    </li>
  );
}
