import type { Schemas } from "../api/client";
import { Swatch } from "../kit/Swatch";

/** Numbers of a policy: each opens its formula and what went into it. */
export function Figures({
  what,
  of,
  about = "",
}: {
  what: string;
  of: Pick<Schemas["GuessingSheet"], "mark" | "policy_name" | "figures">;
  about?: string;
}) {
  return (
    <section aria-label={what}>
      <h2 className="flex items-center gap-1.5 text-sm">
        <Swatch mark={of.mark} size={12} /> {what} under {of.policy_name}
      </h2>
      <p className="pb-1 text-xs text-soft">{about} A number opens its formula.</p>
      {of.figures.map((figure) => (
        <details key={figure.key} className="border-b border-line/60">
          <summary className="flex min-h-6 cursor-pointer items-baseline justify-between gap-3 py-0.5">
            <span>{figure.label}</span>
            <span className="text-right font-mono font-medium whitespace-nowrap">
              {figure.shown}
            </span>
          </summary>
          <div className="space-y-1 pb-2 pl-3 text-xs">
            <p className="font-mono">{figure.formula}</p>
            {figure.note && <p>{figure.note}</p>}
            <dl className="grid grid-cols-[1fr_auto] gap-x-3 text-soft">
              {figure.inputs.map((input) => (
                <div key={input.name} className="contents">
                  <dt>{input.name}</dt>
                  <dd className="text-right font-mono">{input.value}</dd>
                </div>
              ))}
            </dl>
          </div>
        </details>
      ))}
    </section>
  );
}
