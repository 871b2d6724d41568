import type { Schemas } from "../api/client";
import { plural } from "../shared/span";

type One = Schemas["BaselineAsked"];

/** What a baseline asks of one setting, why, and what people notice of it. */
export function Asked({ of }: { of: One[] }) {
  return of.map((one) => (
    <div key={one.key} className="pt-0.5 text-xs text-soft">
      <p>
        <span className={one.accounts === 0 ? "" : one.not_met > 0 ? "text-fail" : "text-pass"}>
          {one.accounts === 0 ? "" : one.not_met > 0 ? "✕ " : "✓ "}
          {one.wanted}
        </span>
        , for {one.who}
        {one.not_met > 0 && `: not met for ${plural(one.not_met, "account")} as saved`}
      </p>
      <p>Why: {one.rationale}</p>
      <p>People: {one.effect}</p>
    </div>
  ));
}
