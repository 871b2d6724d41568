import { useRef } from "react";
import { useSignIn } from "../api/people";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { TextInput } from "../kit/inputs";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { SecretField } from "../kit/SecretField";

/**
 * Name and password. With a name given, that is who was here; somebody else may sign in instead.
 */
export function SignInForm({
  known = "",
  onSignedIn,
}: {
  known?: string;
  onSignedIn?: (name: string) => void;
}) {
  const signIn = useSignIn();
  const form = useForm({ work: null, start: { name: known, password: "" }, writes: [signIn] });
  const { name, password } = form.value;
  const passwordField = useRef<HTMLInputElement>(null);
  return (
    <Form
      of={form}
      onSubmit={() =>
        signIn.mutate(form.value, {
          onSuccess: () => onSignedIn?.(name),
          onError: () => passwordField.current?.select(),
        })
      }
    >
      <label className="mb-3 block">
        <span className="mb-1 block font-medium">Name</span>
        <TextInput
          size="large"
          className="w-full"
          autoFocus={!known}
          autoComplete="username"
          title="For an account of a domain: name@domain"
          {...form.text("name")}
          required
        />
      </label>
      <SecretField
        label="Password"
        className="mb-4"
        ref={passwordField}
        autoFocus={known !== ""}
        value={password}
        onChange={(typed) => form.change({ password: typed })}
      />
      <Button
        type="submit"
        tone="main"
        size="large"
        className="w-full justify-center"
        aria-busy={signIn.isPending}
      >
        Sign in
      </Button>
      <div className="mt-3 min-h-9">
        <Refusal error={signIn.error} />
      </div>
    </Form>
  );
}
