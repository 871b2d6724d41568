import { useBaselines } from "../api/baselines";
import type { ReportOrderInfo, useOrderReport } from "../api/reportOrder";
import { Refusal } from "../kit/Alert";
import { Check, toggled } from "../kit/Check";
import { Choices } from "../kit/Choices";
import { Failure } from "../kit/Loading";
import { Select, TextArea, TextInput } from "../kit/inputs";
import { Field } from "../kit/Field";
import type { FormState } from "../kit/form/useForm";
import { Problem } from "../kit/Problem";
import { SaveWithReason } from "../kit/SaveWithReason";
import { orderOf, type Typed } from "./typed";

const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

interface Props {
  info: ReportOrderInfo;
  form: FormState<Typed>;
  save: ReturnType<typeof useOrderReport>;
}

/** Whether a report comes by itself, when, to whom, and held against what. */
export function ReportOrderForm({ info, form, save }: Props) {
  const known = useBaselines();
  const { value: typed, change: set, errorOf: wrong } = form;
  return (
    <section aria-label="What is ordered" className="space-y-2">
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        <span>A report</span>
        <Choices
          label="A report"
          value={typed.on ? "on" : "off"}
          onChange={(choice) => set({ on: choice === "on" })}
          choices={[
            { value: "off", label: "does not come by itself" },
            { value: "on", label: "comes by itself" },
          ]}
        />
      </div>
      <Field label="To these addresses, one a line" problem={wrong("to")}>
        <TextArea rows={3} maxLength={10_000} spellCheck={false} {...form.text("to")} />
      </Field>
      <fieldset>
        <legend>When</legend>
        <div className="flex flex-wrap items-center gap-1.5">
          every
          <Select
            aria-label="Every"
            value={typed.every}
            onChange={(event) =>
              set({ every: event.target.value === "month" ? "month" : "week", day: "1" })
            }
          >
            <option value="week">week</option>
            <option value="month">month</option>
          </Select>
          on
          {typed.every === "week" ? (
            <Select aria-label="Day of the week" {...form.text("day")}>
              {DAYS.map((day, number) => (
                <option key={day} value={number + 1}>
                  {day}
                </option>
              ))}
            </Select>
          ) : (
            <>
              day
              <TextInput
                aria-label="Day of the month"
                className="w-12"
                inputMode="numeric"
                maxLength={2}
                {...form.text("day")}
              />
            </>
          )}
          <span className="flex min-w-44 flex-1 items-center gap-1.5">
            at
            <TextInput
              aria-label="Hour"
              className="w-16 shrink-0"
              maxLength={5}
              {...form.text("at")}
            />
            in
            <TextInput
              aria-label="Time zone"
              className="w-16 flex-1"
              maxLength={64}
              {...form.text("zone")}
            />
          </span>
        </div>
        <Problem>{wrong("day", "at", "zone")}</Problem>
      </fieldset>
      {known.error && <Failure error={known.error} retry={() => void known.refetch()} />}
      <fieldset>
        <legend>Held against</legend>
        {known.data?.baselines.map((one) => (
          <Check
            key={one.name}
            checked={typed.baselines.includes(one.name)}
            onChange={(on) => set({ baselines: toggled(typed.baselines, one.name, on) })}
          >
            {one.title}
          </Check>
        ))}
        <Problem>{wrong("baselines")}</Problem>
      </fieldset>
      <SaveWithReason
        changed={form.changed}
        overtaken={typed.version !== info.version}
        busy={save.isPending}
        onSave={(reason, done) =>
          save.mutate(
            { order: orderOf(typed), version: typed.version, reason },
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
        {typed.on
          ? "The first one comes when it is next due. What was due before is not made up for."
          : "No report comes by itself any more."}
      </SaveWithReason>
      <Refusal error={form.refusal} />
    </section>
  );
}
