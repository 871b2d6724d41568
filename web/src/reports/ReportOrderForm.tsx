import { useBaselines } from "../api/baselines";
import { ApiError } from "../api/client";
import { useOrderReport, type ReportOrderInfo } from "../api/reportOrder";
import { Refusal } from "../kit/Alert";
import { Choices } from "../kit/Choices";
import { Failure } from "../kit/Loading";
import { Select, TextArea, TextInput } from "../kit/inputs";
import { Field } from "../kit/Field";
import { SaveWithReason } from "../kit/SaveWithReason";
import { orderOf, type Typed } from "./typed";

const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

interface Props {
  domain: string;
  info: ReportOrderInfo;
  typed: Typed;
  changed: boolean;
  onType: (typed: Typed) => void;
  onSaved: (sent: Typed) => void;
}

/** Whether a report comes by itself, when, to whom, and held against what. */
export function ReportOrderForm({ domain, info, typed, changed, onType, onSaved }: Props) {
  const save = useOrderReport(domain);
  const known = useBaselines();
  const fields = save.error instanceof ApiError ? save.error.fields : [];
  const wrong = (...names: string[]) =>
    fields.find(({ field }) => names.some((name) => field.split(".").includes(name)))?.message;
  const set = (part: Partial<Typed>) => {
    save.reset();
    onType({ ...typed, ...part });
  };
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
      <Field label="To these addresses, one a line" wrong={wrong("to")}>
        <TextArea
          rows={3}
          maxLength={10_000}
          spellCheck={false}
          value={typed.to}
          onChange={(event) => set({ to: event.target.value })}
        />
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
            <Select
              aria-label="Day of the week"
              value={typed.day}
              onChange={(event) => set({ day: event.target.value })}
            >
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
                value={typed.day}
                onChange={(event) => set({ day: event.target.value })}
              />
            </>
          )}
          <span className="flex min-w-0 flex-1 items-center gap-1.5">
            at
            <TextInput
              aria-label="Hour"
              className="w-16"
              maxLength={5}
              value={typed.at}
              onChange={(event) => set({ at: event.target.value })}
            />
            in
            <TextInput
              aria-label="Time zone"
              className="w-24 flex-1"
              maxLength={64}
              value={typed.zone}
              onChange={(event) => set({ zone: event.target.value })}
            />
          </span>
        </div>
        {wrong("day", "at", "zone") && (
          <p role="alert" className="text-xs text-fail">
            {wrong("day", "at", "zone")}
          </p>
        )}
      </fieldset>
      {known.error && <Failure error={known.error} retry={() => void known.refetch()} />}
      <fieldset>
        <legend>Held against</legend>
        {known.data?.baselines.map((one) => (
          <label key={one.name} className="flex min-h-6 items-center gap-1.5">
            <input
              type="checkbox"
              checked={typed.baselines.includes(one.name)}
              onChange={(event) =>
                set({
                  baselines: event.target.checked
                    ? [...typed.baselines, one.name]
                    : typed.baselines.filter((name) => name !== one.name),
                })
              }
            />
            {one.title}
          </label>
        ))}
        {wrong("baselines") && (
          <p role="alert" className="text-xs text-fail">
            {wrong("baselines")}
          </p>
        )}
      </fieldset>
      <SaveWithReason
        changed={changed}
        overtaken={typed.version !== info.version}
        busy={save.isPending}
        onSave={(reason, done) =>
          save.mutate(
            { order: orderOf(typed), version: typed.version, reason },
            {
              onSuccess: ({ waits }) => {
                onSaved(typed);
                done(waits);
              },
            },
          )
        }
        onLeave={save.reset}
        onTheirs={() => onSaved(typed)}
      >
        {typed.on
          ? "The first one comes when it is next due. What was due before is not made up for."
          : "No report comes by itself any more."}
      </SaveWithReason>
      {fields.length === 0 && <Refusal error={save.error} />}
    </section>
  );
}
