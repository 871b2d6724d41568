import type { ReactNode } from "react";

interface Props {
  /** The problem. Nothing is drawn without one. */
  children: ReactNode;
  id?: string;
  /** Room is kept for a problem, and nothing moves when one comes. */
  reserved?: boolean;
  className?: string;
}

/** A problem of a field, below the field. */
export function Problem({ children, id, reserved = false, className = "" }: Props) {
  if (!children && !reserved) return null;
  return (
    <p
      id={id}
      role="alert"
      className={`pt-0.5 text-xs text-fail ${reserved ? "min-h-[17px]" : ""} ${className}`}
    >
      {children && <>✕ {children}</>}
    </p>
  );
}
