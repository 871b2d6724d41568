import { useState } from "react";
import type { MailingInfo, useChooseMailing } from "../api/mailing";
import { Refusal } from "../kit/Alert";
import { Check } from "../kit/Check";
import { Choices } from "../kit/Choices";
import { Field } from "../kit/Field";
import type { FormState } from "../kit/form/useForm";
import { TextInput } from "../kit/inputs";
import { SaveWithReason } from "../kit/SaveWithReason";
import { DaysFields } from "./DaysFields";
import { KindFields } from "./KindFields";
import { QuietFields } from "./QuietFields";
import { mailingOf, type Typed } from "./typed";

interface Props {
  info: MailingInfo;
  form: FormState<Typed>;
  save: ReturnType<typeof useChooseMailing>;
}

/** Whether people are written to, about what, and when not. */
export function MailingForm({ info, form, save }: Props) {
  const [confirmed, setConfirmed] = useState("");
  const { value: typed, change } = form;
  return (
    <section aria-label="What people are written about" className="space-y-2">
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        <span>The people here are</span>
        <Choices
          label="The people here are"
          value={typed.on ? "on" : "off"}
          onChange={(choice) => change({ on: choice === "on" })}
          choices={[
            { value: "off", label: "not written to" },
            { value: "on", label: "written to" },
          ]}
        />
      </div>
      <KindFields form={form} />
      <DaysFields form={form} policies={info.policies} />
      <QuietFields form={form} />
      <Field label="Address of the page that letters name" problem={form.errorOf("page")}>
        <TextInput
          className="w-full"
          placeholder={`none, or https://${window.location.host}/you`}
          maxLength={300}
          {...form.text("page")}
        />
      </Field>
      {form.errorOf("confirmed_host") && (
        <div role="alert" className="text-warn">
          <p>△ {form.errorOf("confirmed_host")}</p>
          <Check
            checked={confirmed !== "" && confirmed === hostOf(typed.page)}
            onChange={(on) => setConfirmed(on ? hostOf(typed.page) : "")}
          >
            {hostOf(typed.page)} is a host of this organisation
          </Check>
        </div>
      )}
      <SaveWithReason
        changed={form.changed}
        overtaken={typed.version !== info.version}
        act={typed.on && !info.mailing.on ? "Begin to write" : "Save"}
        busy={save.isPending}
        onSave={(reason, done) =>
          save.mutate(
            {
              mailing: mailingOf(typed),
              version: typed.version,
              reason,
              confirmed_host: confirmed,
            },
            {
              onSuccess: ({ waits }) => {
                form.saved(typed);
                done(waits);
              },
            },
          )
        }
        onLeave={save.reset}
        onTheirs={form.reset}
      >
        {typed.on && !info.mailing.on
          ? "From then on people are written to by themselves, every quarter of an hour. What has been so for long is no news to anybody."
          : typed.on
            ? "It holds from the next look on."
            : "Nobody is written to any more. What waits is not sent."}
      </SaveWithReason>
      <Refusal error={form.refusal} />
    </section>
  );
}

/** The host of an address, "" where it is none. */
const hostOf = (page: string) => (URL.canParse(page) ? new URL(page).hostname : "");
