import { useState } from "react";

/**
 * A box whose tick the server decides on: it shows what was asked for until the answer is there.
 */
export function Tick({
  label,
  checked,
  onChange,
}: {
  label: string;
  checked: boolean;
  onChange: (on: boolean) => Promise<unknown>;
}) {
  const [asked, setAsked] = useState<boolean | null>(null);
  return (
    <label className="flex h-6 items-center gap-1.5">
      <input
        type="checkbox"
        checked={asked ?? checked}
        onChange={(event) => {
          if (asked !== null) return;
          setAsked(event.target.checked);
          // What went wrong is shown by whoever asked.
          void onChange(event.target.checked)
            .catch(() => undefined)
            .finally(() => setAsked(null));
        }}
      />
      {label}
    </label>
  );
}
