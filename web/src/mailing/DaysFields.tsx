import type { MailingInfo } from "../api/mailing";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import type { FormState } from "../kit/form/useForm";
import { Select, TextInput } from "../kit/inputs";
import { Problem } from "../kit/Problem";
import type { Typed } from "./typed";

interface Props {
  form: FormState<Typed>;
  policies: MailingInfo["policies"];
}

/**
 * The days before the end of a password on which users get an email: everywhere, and under one
 * policy.
 */
export function DaysFields({ form: { value, change, text, errorOf }, policies }: Props) {
  const free = policies.filter((one) => !value.byPolicy.some(({ ref }) => ref === one.ref));
  const own = (number: number, days: string) =>
    change({
      byPolicy: value.byPolicy.map((one, other) => (other === number ? { ...one, days } : one)),
    });
  return (
    <>
      <Field label="Days before a password ends" problem={errorOf("days")}>
        <TextInput className="w-full" placeholder="never" maxLength={60} {...text("days")} />
      </Field>
      {value.byPolicy.map((one, number) => {
        const name = policies.find(({ ref }) => ref === one.ref)?.name ?? "a policy that is gone";
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
                change({ byPolicy: value.byPolicy.filter((_, other) => other !== number) })
              }
            >
              ✕
            </Button>
          </div>
        );
      })}
      <Problem>{errorOf("by_policy")}</Problem>
      {free.length > 0 && (
        <Select
          aria-label="Other days under a policy"
          className="w-full"
          value=""
          onChange={(event) =>
            change({ byPolicy: [...value.byPolicy, { ref: event.target.value, days: value.days }] })
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
    </>
  );
}
