import type { ReactNode } from "react";
import { Problem } from "./Problem";

interface Props {
  label: string;
  problem?: string;
  children: ReactNode;
}

/** A field with its name above it, and what is wrong with it below. */
export function Field({ label, problem, children }: Props) {
  return (
    <div>
      <label className="block">
        <span className="block">{label}</span>
        {children}
      </label>
      <Problem>{problem}</Problem>
    </div>
  );
}
