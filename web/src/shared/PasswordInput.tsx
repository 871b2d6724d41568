import type { Ref } from "react";
import { useMe } from "../api/people";
import { TextInput } from "./fields";

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
  /** A password to be, not one that is remembered. */
  fresh?: boolean;
  autoFocus?: boolean;
  ref?: Ref<HTMLInputElement>;
  /** What is wrong with it. */
  error?: string | undefined;
}

/** A password of somebody's who signs in to Hornfels. */
export function PasswordInput({ label, value, onChange, fresh, autoFocus, ref, error }: Props) {
  return (
    <label className="mb-4 block">
      <span className="mb-1 block font-medium">{label}</span>
      <TextInput
        size="large"
        className="w-full font-mono"
        ref={ref}
        type="password"
        autoFocus={autoFocus}
        autoComplete={fresh ? "new-password" : "current-password"}
        value={value}
        aria-invalid={error !== undefined}
        onChange={(event) => onChange(event.target.value)}
        required
      />
      {error && (
        <span role="alert" className="mt-1 block text-xs text-fail">
          {error}
        </span>
      )}
    </label>
  );
}

/** Tells whatever keeps passwords whose the ones of a form are. */
export function WhoseForm() {
  const me = useMe().data?.name ?? "";
  return <input type="text" autoComplete="username" value={me} readOnly hidden />;
}
