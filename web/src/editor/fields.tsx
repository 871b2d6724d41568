import { Problem } from "../kit/Problem";
import { Checkbox, Switch } from "radix-ui";
import { useState, type FocusEvent, type ReactNode } from "react";
import { Explained } from "../shared/Word";
import { parseSpan, spanText } from "../shared/span";
import { TextInput } from "../kit/inputs";
import { useSmall } from "../shared/useSmall";

export interface Shared {
  id: string;
  label: string;
  hint: string;
  beside?: string;
  /** What is live where the draft says something else. */
  live?: string;
  /** Said because another setting was changed along with this one. */
  note?: string;
  error?: string;
  warnings?: string[];
  /** What a baseline asks here, with its reasons. */
  asked?: ReactNode;
}

/**
 * One line of the sheet: label with its meaning, the control, what bedrock says, and below it what
 * is wrong.
 */
function Line({
  id,
  label,
  hint,
  beside,
  live,
  note,
  error,
  warnings = [],
  asked,
  children,
}: Shared & { children: ReactNode }) {
  // Pointing at the name opens it; so does the keyboard coming to the field, and a tap on the name,
  // which goes there.
  const [open, setOpen] = useState(false);
  const small = useSmall();
  const byKeys = (event: FocusEvent) => setOpen(event.target.matches(":focus-visible"));
  return (
    <div
      className="border-b border-line/60 py-[3px]"
      onFocus={byKeys}
      onBlur={() => setOpen(false)}
    >
      <div
        className={`grid items-center gap-2 ${beside === undefined ? "grid-cols-[minmax(0,1fr)_116px]" : "grid-cols-[minmax(0,1fr)_116px_58px]"}`}
      >
        {/* Never over the field itself: a small window has no room beside the label. */}
        <Explained
          open={open}
          onOpenChange={setOpen}
          text={hint}
          side={small ? "top" : "left"}
          align={small ? "start" : "center"}
        >
          <label
            htmlFor={id}
            className="min-w-0 leading-[17px] underline decoration-line decoration-dotted underline-offset-[3px]"
          >
            {label}
          </label>
        </Explained>
        {children}
        {beside !== undefined && (
          <span className="truncate text-right text-xs text-soft" title={beside}>
            {beside}
          </span>
        )}
      </div>
      <span id={`${id}-hint`} className="sr-only">
        {hint}
        {beside ? ` Beside it: ${beside}.` : ""}
      </span>
      {live && <p className="text-xs text-warn">live: {live}</p>}
      {note && !error && (
        <p role="status" className="pt-0.5 text-xs text-focus">
          + {note}
        </p>
      )}
      <Problem id={`${id}-error`}>{error}</Problem>
      {!error &&
        warnings.map((w) => (
          <p key={w} className="pt-0.5 text-xs text-warn">
            △ {w}
          </p>
        ))}
      {asked}
    </div>
  );
}

const describedBy = (id: string, error?: string) =>
  error ? `${id}-hint ${id}-error` : `${id}-hint`;
export function NameField({
  value,
  error,
  first,
  onChange,
}: {
  value: string;
  error?: string;
  /** Where one begins. */ first?: boolean;
  onChange: (value: string) => void;
}) {
  return (
    <div className="py-[3px]">
      <div className="grid grid-cols-[72px_minmax(0,1fr)] items-center gap-2">
        <label htmlFor="name">Name</label>
        <TextInput
          id="name"
          data-first={first || undefined}
          value={value}
          maxLength={64}
          aria-invalid={error !== undefined}
          aria-describedby={error ? "name-error" : undefined}
          className="w-full"
          onChange={(event) => onChange(event.target.value)}
        />
      </div>
      <Problem id="name-error">{error}</Problem>
    </div>
  );
}

interface CountProps extends Shared {
  unit: string;
  value: number;
  low: number;
  high?: number;
  /** Text typed before that could not be read. */
  typed?: string;
  onChange: (value: number | undefined, message: string, text: string) => void;
}

export function CountField({
  unit,
  value,
  low,
  high,
  typed: before,
  onChange,
  ...shared
}: CountProps) {
  const [text, setText] = useState<string | null>(before || null);
  const commit = (typed: string) => {
    setText(typed);
    if (!/^\d{1,10}$/.test(typed.trim())) onChange(undefined, "Type a whole number.", typed);
    else onChange(Number(typed), "", "");
  };
  const step = (by: number) => {
    const next = Math.min(high ?? Infinity, Math.max(low, value + by));
    setText(null);
    onChange(next, "", "");
  };
  return (
    <Line {...shared}>
      <div className="relative">
        <TextInput
          id={shared.id}
          inputMode="numeric"
          value={text ?? String(value)}
          aria-invalid={shared.error !== undefined}
          aria-describedby={describedBy(shared.id, shared.error)}
          title={unit}
          className="w-full font-mono text-sm"
          onChange={(event) => commit(event.target.value)}
          onBlur={() => /^\d{1,10}$/.test(text ?? "0") && setText(null)}
          onKeyDown={(event) => {
            if (event.key === "ArrowUp" || event.key === "ArrowDown") {
              event.preventDefault();
              step(event.key === "ArrowUp" ? 1 : -1);
            }
          }}
        />
        <span className="absolute top-[3px] right-1 flex [fieldset:disabled_&]:hidden">
          {([-1, 1] as const).map((by) => (
            <button
              key={by}
              type="button"
              tabIndex={-1}
              aria-label={`${shared.label} ${by > 0 ? "one more" : "one less"}`}
              className="h-5 w-6 rounded text-soft hover:bg-paper"
              onClick={() => step(by)}
            >
              {by > 0 ? "+" : "−"}
            </button>
          ))}
        </span>
      </div>
    </Line>
  );
}

export function SwitchField({
  value,
  onChange,
  ...shared
}: Shared & { value: boolean; onChange: (value: boolean) => void }) {
  return (
    <Line {...shared}>
      <div className="flex h-[26px] items-center gap-2">
        <Switch.Root
          id={shared.id}
          checked={value}
          onCheckedChange={onChange}
          aria-describedby={describedBy(shared.id)}
          className="h-[18px] w-8 rounded-full border border-edge bg-white data-[state=checked]:bg-ink"
        >
          <Switch.Thumb className="block h-3 w-3 translate-x-[3px] rounded-full bg-edge data-[state=checked]:translate-x-[15px] data-[state=checked]:bg-white" />
        </Switch.Root>
        <span className="text-sm">{value ? "on" : "off"}</span>
      </div>
    </Line>
  );
}

interface SpanProps extends Shared {
  unit: "days" | "minutes";
  endless: string | null;
  value: number | null;
  typed?: string;
  onChange: (value: number | null | undefined, message: string, text: string) => void;
}

export function SpanField({ unit, endless, value, typed: before, onChange, ...shared }: SpanProps) {
  const [text, setText] = useState<string | null>(before || null);
  const example = unit === "days" ? "45 d" : "30 min";
  const commit = (typed: string) => {
    setText(typed);
    const seconds = parseSpan(typed, unit);
    if (seconds === undefined)
      onChange(undefined, `Type a time such as “${example}” or “1 h 30 min”.`, typed);
    else onChange(seconds, "", "");
  };
  return (
    <Line {...shared}>
      <div>
        <TextInput
          id={shared.id}
          value={text ?? spanText(value, endless ?? "never")}
          disabled={value === null}
          aria-invalid={shared.error !== undefined}
          aria-describedby={describedBy(shared.id, shared.error)}
          className="w-full font-mono text-sm disabled:bg-paper"
          onChange={(event) => commit(event.target.value)}
          onBlur={() => text !== null && parseSpan(text, unit) !== undefined && setText(null)}
        />
        {endless && (
          <label className="flex h-6 items-center gap-1.5 text-xs text-soft">
            <Checkbox.Root
              checked={value === null}
              className="grid h-3.5 w-3.5 place-content-center rounded-[3px] border border-edge bg-white text-[11px] leading-none text-ink"
              onCheckedChange={(on) => {
                setText(null);
                onChange(on ? null : unit === "days" ? 90 * 86_400 : 1_800, "", "");
              }}
            >
              <Checkbox.Indicator>✓</Checkbox.Indicator>
            </Checkbox.Root>
            {endless}
          </label>
        )}
      </div>
    </Line>
  );
}
