import type { FormState } from "../kit/form/useForm";
import type { Typed } from "./typed";
import { KIND_ORDER, KINDS } from "./words";

/** The kinds of emails, each with its meaning. */
export function KindFields({ form: { value, change } }: { form: FormState<Typed> }) {
  return (
    <fieldset>
      <legend className="font-medium">About what</legend>
      {KIND_ORDER.map((kind) => (
        <label key={kind} className="grid grid-cols-[22px_minmax(0,1fr)] items-start py-0.5">
          <input
            type="checkbox"
            className="mt-1 size-3.5"
            checked={value.kinds.includes(kind)}
            onChange={(event) =>
              change({
                kinds: KIND_ORDER.filter((one) =>
                  one === kind ? event.target.checked : value.kinds.includes(one),
                ),
              })
            }
          />
          <span>
            {KINDS[kind].label}
            <span className="block text-xs text-soft">{KINDS[kind].meaning}</span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}
