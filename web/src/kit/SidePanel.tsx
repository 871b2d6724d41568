import { createContext, useContext, useLayoutEffect, useRef, type ReactNode } from "react";
import { createPortal } from "react-dom";
import { giveBack } from "../shared/focus";
import { useSmall } from "../shared/useSmall";

export const SideSlot = createContext<HTMLElement | null>(null);

/**
 * What is opened and closed at the side of the screen, named by what it is about. It takes the
 * focus when it opens, at the field to begin with if there is one, and gives it back to where it
 * was when it closes.
 */
export function SidePanel({ about, children }: { about: string; children: ReactNode }) {
  const slot = useContext(SideSlot);
  return slot && about ? createPortal(<Panel key={about}>{children}</Panel>, slot) : null;
}

function Panel({ children }: { children: ReactNode }) {
  const panel = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    const before = document.activeElement;
    const own = panel.current;
    // Another panel begins at its head, however far the one before was read.
    own?.parentElement?.scrollTo(0, 0);
    (own?.querySelector<HTMLElement>("[data-first]") ?? own)?.focus({ preventScroll: true });
    return () => {
      const held =
        own?.contains(document.activeElement) || document.activeElement === document.body;
      if (held) giveBack(before);
    };
  }, []);
  return (
    <div ref={panel} tabIndex={-1} className="min-h-full outline-none">
      {children}
    </div>
  );
}

/**
 * What belongs to the screen and stands at its side where there is room, below it where there is
 * none.
 */
export function Beside({ children }: { children: ReactNode }) {
  const slot = useContext(SideSlot);
  const small = useSmall();
  if (small) return <div className="border-t border-line pt-2">{children}</div>;
  return slot ? createPortal(children, slot) : null;
}
