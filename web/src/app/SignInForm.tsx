import { useRef, useState } from "react";
import { useSignIn } from "../api/people";
import { Button, Refused } from "../shared/controls";
import { TextInput } from "../shared/fields";
import { PasswordInput } from "../shared/PasswordInput";

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
  const [name, setName] = useState(known);
  const [password, setPassword] = useState("");
  const signIn = useSignIn();
  const passwordField = useRef<HTMLInputElement>(null);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (signIn.isPending) return;
        signIn.mutate(
          { name, password },
          { onSuccess: () => onSignedIn?.(name), onError: () => passwordField.current?.select() },
        );
      }}
    >
      <label className="mb-3 block">
        <span className="mb-1 block font-medium">Name</span>
        <TextInput
          size="large"
          className="w-full"
          autoFocus={!known}
          autoComplete="username"
          title="For an account of a domain: name@domain"
          value={name}
          onChange={(event) => setName(event.target.value)}
          required
        />
      </label>
      <PasswordInput
        label="Password"
        ref={passwordField}
        autoFocus={known !== ""}
        value={password}
        onChange={setPassword}
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
        <Refused error={signIn.error} />
      </div>
    </form>
  );
}
