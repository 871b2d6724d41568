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
