import type { ReactNode } from "react";

/** A field with its name above it, and what is wrong with it below. */
export function Field({
  label,
  wrong,
  children,
}: {
  label: string;
  wrong: string | undefined;
  children: ReactNode;
}) {
  return (
    <div>
      <label className="block">
        <span className="block">{label}</span>
        {children}
      </label>
      {wrong && (
        <p role="alert" className="mt-0.5 text-xs text-fail">
          {wrong}
        </p>
      )}
    </div>
  );
}
