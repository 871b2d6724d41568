import { Field } from "../kit/Field";
import { Select, TextArea, TextInput } from "../kit/inputs";
import type { FormState } from "../kit/form/useForm";
import type { Typed } from "./connection";

/** The servers of a directory, how the way to the servers is encrypted, and which certificates count. */
export function ServerFields({ domain, form }: { domain: string; form: FormState<Typed> }) {
  const { value: typed, change } = form;
  return (
    <>
      <Field label="Servers, one a line, tried in this order" problem={form.errorOf("servers")}>
        <TextArea
          data-first
          rows={3}
          placeholder={`dc1.${domain}`}
          value={typed.servers}
          onChange={(event) => change({ servers: event.target.value })}
        />
      </Field>
      <Field label="Encryption" problem={form.errorOf("security")}>
        <Select
          className="w-full"
          value={typed.security}
          onChange={(event) => change({ security: event.target.value as Typed["security"] })}
        >
          <option value="ldaps">TLS from the start (LDAPS, port 636)</option>
          <option value="starttls">StartTLS (port 389)</option>
          <option value="none">
            {typed.bind === "gssapi"
              ? "by Kerberos (port 389)"
              : "none: whoever is on the way reads passwords"}
          </option>
        </Select>
      </Field>
      <Field label="Certificates that are trusted" problem={form.errorOf("authorities", "pinned")}>
        <Select
          className="w-full"
          value={typed.trust}
          onChange={(event) => change({ trust: event.target.value as Typed["trust"] })}
        >
          <option value="machine">by the authorities of this machine</option>
          <option value="authorities">by these authorities</option>
          <option value="pinned">this one certificate</option>
        </Select>
      </Field>
      {typed.trust === "authorities" && (
        <label className="block">
          <span className="block">Their certificates (PEM)</span>
          <TextArea
            className="font-mono text-xs"
            rows={4}
            value={typed.authorities}
            onChange={(event) => change({ authorities: event.target.value })}
          />
        </label>
      )}
      {typed.trust === "pinned" && (
        <label className="block">
          <span className="block">Its SHA-256, in hexadecimal</span>
          <TextInput
            className="w-full font-mono"
            value={typed.pinned}
            onChange={(event) => change({ pinned: event.target.value })}
          />
        </label>
      )}
    </>
  );
}
