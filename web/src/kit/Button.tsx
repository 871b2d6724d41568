import type { ComponentProps, ReactNode } from "react";

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
