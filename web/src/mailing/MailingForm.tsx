import { useState } from "react";
import { ApiError } from "../api/client";
import { useChooseMailing, type MailingInfo } from "../api/mailing";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Choices } from "../kit/Choices";
import { Select, TextInput } from "../kit/inputs";
import { Field } from "../kit/Field";
import { SaveWithReason } from "../kit/SaveWithReason";
import { KIND_ORDER, KINDS } from "./words";
import { mailingOf, type Typed } from "./typed";

interface Props {
  domain: string;
  info: MailingInfo;
  typed: Typed;
  changed: boolean;
  onType: (typed: Typed) => void;
  onSaved: (sent: Typed) => void;
}

/** Whether people are written to, about what, and when not. */
export function MailingForm({ domain, info, typed, changed, onType, onSaved }: Props) {
  const save = useChooseMailing(domain);
  const [host, setHost] = useState("");
  const fields = save.error instanceof ApiError ? save.error.fields : [];
  const wrong = (...names: string[]) =>
    fields.find(({ field }) => names.some((name) => field.includes(name)))?.message;
  const set = (part: Partial<Typed>) => {
    save.reset();
    onType({ ...typed, ...part });
  };
  const free = info.policies.filter((one) => !typed.byPolicy.some(({ ref }) => ref === one.ref));
  const own = (number: number, days: string) =>
    set({
      byPolicy: typed.byPolicy.map((one, other) => (other === number ? { ...one, days } : one)),
    });
  return (
    <section aria-label="What people are written about" className="space-y-2">
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        <span>The people here are</span>
        <Choices
          label="The people here are"
          value={typed.on ? "on" : "off"}
          onChange={(choice) => set({ on: choice === "on" })}
          choices={[
            { value: "off", label: "not written to" },
            { value: "on", label: "written to" },
          ]}
        />
      </div>
      <fieldset>
        <legend className="font-medium">About what</legend>
        {KIND_ORDER.map((kind) => (
          <label key={kind} className="grid grid-cols-[22px_minmax(0,1fr)] items-start py-0.5">
            <input
              type="checkbox"
              className="mt-1 size-3.5"
              checked={typed.kinds.includes(kind)}
              onChange={(event) =>
                set({
                  kinds: KIND_ORDER.filter((one) =>
                    one === kind ? event.target.checked : typed.kinds.includes(one),
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
      <Field label="Days before a password ends" wrong={wrong("days")}>
        <TextInput
          className="w-full"
          placeholder="never"
          maxLength={60}
          value={typed.days}
          onChange={(event) => set({ days: event.target.value })}
        />
      </Field>
      {typed.byPolicy.map((one, number) => {
        const name =
          info.policies.find(({ ref }) => ref === one.ref)?.name ?? "a policy that is gone";
        return (
          <div key={one.ref} className="flex items-center gap-1.5">
            <span className="min-w-0 flex-1 truncate" title={name}>
              under {name}
            </span>
            <TextInput
              aria-label={`Days under ${name}`}
              placeholder="never"
              className="w-24"
              maxLength={60}
              value={one.days}
              onChange={(event) => own(number, event.target.value)}
            />
            <Button
              aria-label={`Same days under ${name} as elsewhere`}
              onClick={() =>
                set({ byPolicy: typed.byPolicy.filter((_, other) => other !== number) })
              }
            >
              ✕
            </Button>
          </div>
        );
      })}
      {wrong("by_policy") && (
        <p role="alert" className="text-xs text-fail">
          {wrong("by_policy")}
        </p>
      )}
      {free.length > 0 && (
        <Select
          aria-label="Other days under a policy"
          className="w-full"
          value=""
          onChange={(event) =>
            set({ byPolicy: [...typed.byPolicy, { ref: event.target.value, days: typed.days }] })
          }
        >
          <option value="">+ Other days under …</option>
          {free.map((one) => (
            <option key={one.ref} value={one.ref}>
              {one.name}
            </option>
          ))}
        </Select>
      )}
      <fieldset>
        <legend>Nobody is written to</legend>
        <div className="flex flex-wrap items-center gap-1.5">
          from
          <TextInput
            aria-label="Quiet from"
            className="w-16"
            maxLength={5}
            value={typed.quiet_from}
            onChange={(event) => set({ quiet_from: event.target.value })}
          />
          to
          <TextInput
            aria-label="Quiet until"
            className="w-16"
            maxLength={5}
            value={typed.quiet_until}
            onChange={(event) => set({ quiet_until: event.target.value })}
          />
          in
          <TextInput
            aria-label="Time zone"
            className="w-32 flex-1"
            maxLength={64}
            value={typed.zone}
            onChange={(event) => set({ zone: event.target.value })}
          />
        </div>
        {wrong("quiet", "zone") && (
          <p role="alert" className="text-xs text-fail">
            {wrong("quiet", "zone")}
          </p>
        )}
      </fieldset>
      <Field label="Address of the page that letters name" wrong={wrong("page")}>
        <TextInput
          className="w-full"
          placeholder={`none, or https://${window.location.host}/you`}
          maxLength={300}
          value={typed.page}
          onChange={(event) => set({ page: event.target.value })}
        />
      </Field>
      {wrong("confirmed_host") && (
        <div role="alert" className="text-warn">
          <p>△ {wrong("confirmed_host")}</p>
          <label className="flex min-h-6 items-center gap-1.5">
            <input
              type="checkbox"
              checked={host !== "" && host === hostOf(typed.page)}
              onChange={(event) => setHost(event.target.checked ? hostOf(typed.page) : "")}
            />
            {hostOf(typed.page)} is a host of this organisation
          </label>
        </div>
      )}
      <SaveWithReason
        changed={changed}
        overtaken={typed.version !== info.version}
        act={typed.on && !info.mailing.on ? "Begin to write" : "Save"}
        busy={save.isPending}
        onSave={(reason, done) =>
          save.mutate(
            { mailing: mailingOf(typed), version: typed.version, reason, confirmed_host: host },
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
        {typed.on && !info.mailing.on
          ? "From then on people are written to by themselves, every quarter of an hour. What has been so for long is no news to anybody."
          : typed.on
            ? "It holds from the next look on."
            : "Nobody is written to any more. What waits is not sent."}
      </SaveWithReason>
      {fields.length === 0 && <Refusal error={save.error} />}
    </section>
  );
}

/** The host of an address, "" where it is none. */
const hostOf = (page: string) => (URL.canParse(page) ? new URL(page).hostname : "");
