import type { ReactNode } from "react";

interface Props {
  /** The meaning, beside the box. */
  children: ReactNode;
  checked: boolean;
  disabled?: boolean;
  onChange: (checked: boolean) => void;
}

/** A box to tick, with its meaning beside it. */
export function Check({ children, checked, disabled, onChange }: Props) {
  return (
    <label className="flex min-h-6 items-center gap-1.5">
      <input
        type="checkbox"
        checked={checked}
        disabled={disabled}
        onChange={(event) => onChange(event.target.checked)}
      />
      {children}
    </label>
  );
}

/** The values that are chosen, with one more or one less. */
export const toggled = <T,>(chosen: readonly T[], one: T, on: boolean): T[] =>
  on ? [...chosen, one] : chosen.filter((other) => other !== one);
