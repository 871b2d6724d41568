import type { ReactNode } from "react";

/** The sentence in an empty list: the reason and the next step. */
export function EmptyState({ children }: { children: ReactNode }) {
  return <p className="py-1 text-soft">{children}</p>;
}
