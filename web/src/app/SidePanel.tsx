import { createContext, useContext, type ReactNode } from "react";
import { createPortal } from "react-dom";

export const SideSlot = createContext<HTMLElement | null>(null);

/** Puts its content into the frame's side panel. */
export function SidePanel({ children }: { children: ReactNode }) {
  const slot = useContext(SideSlot);
  return slot ? createPortal(children, slot) : null;
}
