import type { ReactNode } from "react";

/** A page that has nothing to show yet, or cannot: what it says stands alone. */
export function WholePage({ children }: { children: ReactNode }) {
  return (
    <main className="h-full overflow-y-auto">
      <h1 className="sr-only">Hornfels</h1>
      {children}
    </main>
  );
}
