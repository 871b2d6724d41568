import type { FormState } from "../kit/form/useForm";
import { TextInput } from "../kit/inputs";
import { Problem } from "../kit/Problem";
import type { Typed } from "./typed";

/** The hours without emails, and their time zone. */
export function QuietFields({ form: { text, errorOf } }: { form: FormState<Typed> }) {
  return (
    <fieldset>
      <legend>Nobody is written to</legend>
      <div className="flex flex-wrap items-center gap-1.5">
        from
        <TextInput aria-label="Quiet from" className="w-16" maxLength={5} {...text("quiet_from")} />
        to
        <TextInput
          aria-label="Quiet until"
          className="w-16"
          maxLength={5}
          {...text("quiet_until")}
        />
        in
        <TextInput
          aria-label="Time zone"
          className="w-32 flex-1"
          maxLength={64}
          {...text("zone")}
        />
      </div>
      <Problem>{errorOf("quiet_from", "quiet_until", "zone")}</Problem>
    </fieldset>
  );
}
