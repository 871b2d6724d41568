import type { ReactNode } from "react";

/** What stands where nothing is: why nothing is there, and the way on. */
export function EmptyState({ children }: { children: ReactNode }) {
  return <p className="py-1 text-soft">{children}</p>;
}
