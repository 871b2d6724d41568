import { useState, type ComponentProps, type ReactNode } from "react";

type Tone = "main" | "plain" | "danger" | "quiet";

const TONES: Record<Tone, string> = {
  main: "bg-ink text-white border-ink hover:bg-inkhover",
  plain: "bg-white text-ink border-edge hover:bg-paper",
  danger: "bg-white text-fail border-fail hover:bg-failbg",
  quiet: "border-transparent text-ink hover:bg-hover",
};

type Size = "small" | "plain" | "large";

const SIZES: Record<Size, string> = {
  small: "h-6 text-xs",
  plain: "h-7 text-sm",
  large: "h-8 text-sm",
};

interface Style {
  tone?: Tone;
  size?: Size;
  className?: string;
}

const styled = ({ tone = "plain", size = "plain", className = "" }: Style) =>
  `inline-flex shrink-0 items-center gap-1.5 rounded-[5px] border px-2.5 font-medium whitespace-nowrap disabled:opacity-55 aria-disabled:opacity-55 ${SIZES[size]} ${TONES[tone]} ${className}`;

export function Button({ tone, size, className, ...rest }: ComponentProps<"button"> & Style) {
  return <button type="button" className={styled({ tone, size, className })} {...rest} />;
}

/** A link that looks like a button, such as one to a file. */
export function ButtonLink({ tone, size, className, ...rest }: ComponentProps<"a"> & Style) {
  return <a className={styled({ tone, size, className })} {...rest} />;
}

export function Kbd({ children }: { children: ReactNode }) {
  return (
    <kbd className="rounded border border-edge bg-white px-1 font-mono text-[11px] leading-4 text-soft">
      {children}
    </kbd>
  );
}

const NOTICES = {
  warn: "border-warn bg-warnbg",
  fail: "border-fail bg-failbg",
  plain: "border-edge bg-white",
} as const;

/** A message that stands where it matters, with what to do about it. */
export function Notice({
  tone = "plain",
  children,
  role,
}: {
  tone?: keyof typeof NOTICES;
  children: ReactNode;
  role?: "alert" | "status";
}) {
  return (
    <div role={role} className={`border-l-[3px] px-2.5 py-1.5 text-sm ${NOTICES[tone]}`}>
      {children}
    </div>
  );
}

/** What was refused, and what to do about it; nothing where nothing was. */
export function Refused({ error, also }: { error: Error | string | null; also?: string }) {
  if (!error) return null;
  return (
    <Notice tone="fail" role="alert">
      {typeof error === "string" ? error : error.message} {also}
    </Notice>
  );
}

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="p-4 text-soft">
      Reading {what} …
    </p>
  );
}

export function Failed({ error, retry }: { error: unknown; retry?: () => void }) {
  return (
    <div className="p-4">
      <Notice tone="fail" role="alert">
        <p>{error instanceof Error ? error.message : "Something went wrong."}</p>
        {retry && (
          <Button className="mt-2" onClick={retry}>
            Try again
          </Button>
        )}
      </Notice>
    </div>
  );
}

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

export interface Choice<T extends string> {
  value: T;
  label: string;
}

/**
 * A few choices side by side, one of them taken. Our own, for the library takes the next one a moment
 * after the arrow key, and not at all if the key is let go before.
 */
export function Choices<T extends string>({
  label,
  value,
  choices,
  onChange,
}: {
  label: string;
  value: T;
  choices: Choice<T>[];
  onChange: (value: T) => void;
}) {
  return (
    <div
      role="radiogroup"
      aria-label={label}
      className="inline-flex shrink-0 self-start overflow-hidden rounded-[5px] border border-edge tiny:shrink tiny:flex-wrap"
    >
      {choices.map((choice) => (
        <button
          key={choice.value}
          type="button"
          role="radio"
          aria-checked={choice.value === value}
          tabIndex={choice.value === value ? 0 : -1}
          onClick={() => onChange(choice.value)}
          onKeyDown={(event) => {
            const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
            if (!step) return;
            event.preventDefault();
            const at = choices.findIndex((c) => c.value === value);
            const next = choices[(at + step + choices.length) % choices.length];
            if (!next) return;
            onChange(next.value);
            const sibling = event.currentTarget.parentElement?.children[choices.indexOf(next)];
            if (sibling instanceof HTMLElement) sibling.focus();
          }}
          className={`h-7 px-2.5 text-sm whitespace-nowrap tiny:px-1.5 focus-visible:outline-offset-[-3px] ${choice.value === value ? "bg-ink text-white" : "bg-white hover:bg-paper"}`}
        >
          {choice.label}
        </button>
      ))}
    </div>
  );
}
