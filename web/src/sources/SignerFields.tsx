import { Check } from "../kit/Check";
import { Field } from "../kit/Field";
import { Select, TextInput } from "../kit/inputs";
import { Problem } from "../kit/Problem";
import type { FormState } from "../kit/form/useForm";
import type { Typed } from "./connection";

/** By which accounts Hornfels reads the directory and writes into the directory. */
export function SignerFields({ form }: { form: FormState<Typed> }) {
  const { value: typed, change } = form;
  return (
    <>
      <Field label="Signs in">
        <Select
          className="w-full"
          value={typed.bind}
          onChange={(event) => {
            const bind = event.target.value as Typed["bind"];
            // With a ticket Kerberos itself encrypts.
            change({ bind, security: bind === "gssapi" ? "none" : "ldaps" });
          }}
        >
          <option value="simple">by name and password</option>
          <option value="gssapi">by a Kerberos ticket of this machine</option>
        </Select>
      </Field>
      {typed.bind === "simple" && (
        <Signer
          who="Who reads"
          value={typed.reader}
          problem={form.errorOf("reader")}
          onChange={(reader) => change({ reader })}
        />
      )}
      <Check checked={typed.writes} onChange={(on) => change({ writes: on })}>
        Somebody may write too
      </Check>
      {typed.writes && typed.bind === "simple" && (
        <Signer
          who="Who writes"
          value={typed.writer}
          problem={form.errorOf("writer")}
          onChange={(writer) => change({ writer })}
        />
      )}
      {typed.writes && (
        <Field label="Publishing">
          <Select
            className="w-full"
            value={typed.publishes ? "writes" : "files"}
            onChange={(event) => change({ publishes: event.target.value === "writes" })}
          >
            <option value="writes">writes policies into the directory</option>
            <option value="files">gives files, to be applied by hand</option>
          </Select>
        </Field>
      )}
      {typed.writes && (
        <Field
          label="Accounts to rehearse with are made in (none if empty)"
          problem={form.errorOf("stage")}
        >
          <TextInput
            className="w-full"
            placeholder="OU=…,DC=…"
            maxLength={4096}
            value={typed.stage}
            onChange={(event) => change({ stage: event.target.value })}
          />
        </Field>
      )}
    </>
  );
}

interface SignerProps {
  who: string;
  value: { name: string; secret: string };
  problem: string | undefined;
  onChange: (value: { name: string; secret: string }) => void;
}

function Signer({ who, value, problem, onChange }: SignerProps) {
  return (
    <fieldset>
      <legend>{who}</legend>
      <div className="grid gap-1.5">
        <TextInput
          aria-label={`${who}: account`}
          placeholder="name@domain"
          value={value.name}
          onChange={(event) => onChange({ ...value, name: event.target.value })}
        />
        <TextInput
          aria-label={`${who}: what its secret is called`}
          placeholder="name of its secret"
          value={value.secret}
          onChange={(event) => onChange({ ...value, secret: event.target.value })}
        />
      </div>
      <p className="text-xs text-soft">
        The secret itself is kept on the machine, in the file secrets/… of Hornfels or in
        HORNFELS_SECRET_….
      </p>
      <Problem>{problem}</Problem>
    </fieldset>
  );
}
