import { useRef } from "react";
import { useComeIn } from "../api/you";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { Select, TextInput } from "../kit/inputs";
import { SecretField } from "../kit/SecretField";

/** Name and password of the directory; who was here before is not asked for the name. */
export function ComeIn({ domains, known }: { domains: string[]; known?: string }) {
  const come = useComeIn();
  const start = { name: known ?? "", password: "", domain: "" };
  const form = useForm({ work: null, start, writes: [come] });
  const { name, password, domain } = form.value;
  const field = useRef<HTMLInputElement>(null);
  const chosen = domains.length === 1 ? domains[0] : domain;
  return (
    <Form
      of={form}
      label="Sign in"
      onSubmit={() =>
        come.mutate(
          { name, password, domain: chosen || null },
          { onError: () => field.current?.select() },
        )
      }
    >
      {known !== undefined ? (
        <input type="text" autoComplete="username" value={known} readOnly hidden />
      ) : (
        <label className="mb-3 block">
          <span className="mb-1 block font-medium">Name</span>
          <TextInput
            size="large"
            className="w-full"
            autoFocus
            autoComplete="username"
            maxLength={400}
            {...form.text("name")}
            required
          />
        </label>
      )}
      {domains.length > 1 && (
        <label className="mb-3 block">
          <span className="mb-1 block font-medium">Domain</span>
          <Select className="w-full" {...form.text("domain")}>
            <option value="">as behind the @ of the name</option>
            {domains.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </Select>
        </label>
      )}
      <SecretField
        label="Password"
        ref={field}
        autoFocus={known !== undefined}
        value={password}
        onChange={(typed) => form.change({ password: typed })}
      />
      <Button
        type="submit"
        tone="main"
        size="large"
        className="mt-4 w-full justify-center"
        aria-busy={come.isPending}
      >
        Sign in
      </Button>
      <p className="mt-3 text-sm text-soft">
        With what you sign in to your computer with, also if it has expired.
      </p>
      <div className="mt-2 min-h-9">
        <Refusal error={come.error} />
      </div>
    </Form>
  );
}
