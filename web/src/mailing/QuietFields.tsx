import type { FormState } from "../kit/form/useForm";
import { TextInput } from "../kit/inputs";
import { Problem } from "../kit/Problem";
import type { Typed } from "./typed";

/** The hours in which nobody is written to, and in which time zone. */
export function QuietFields({ form: { value, change, errorOf } }: { form: FormState<Typed> }) {
  return (
    <fieldset>
      <legend>Nobody is written to</legend>
      <div className="flex flex-wrap items-center gap-1.5">
        from
        <TextInput
          aria-label="Quiet from"
          className="w-16"
          maxLength={5}
          value={value.quiet_from}
          onChange={(event) => change({ quiet_from: event.target.value })}
        />
        to
        <TextInput
          aria-label="Quiet until"
          className="w-16"
          maxLength={5}
          value={value.quiet_until}
          onChange={(event) => change({ quiet_until: event.target.value })}
        />
        in
        <TextInput
          aria-label="Time zone"
          className="w-32 flex-1"
          maxLength={64}
          value={value.zone}
          onChange={(event) => change({ zone: event.target.value })}
        />
      </div>
      <Problem>{errorOf("quiet_from", "quiet_until", "zone")}</Problem>
    </fieldset>
  );
}
