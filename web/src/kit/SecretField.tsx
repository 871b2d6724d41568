import { useId, useState, type Ref } from "react";
import { Button } from "./Button";
import { TextInput } from "./inputs";
import { Problem } from "./Problem";

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
  /** A password to be, not one that is remembered. */
  fresh?: boolean;
  autoFocus?: boolean;
  className?: string;
  ref?: Ref<HTMLInputElement>;
  /** What is wrong with it. */
  error?: string | undefined;
  /** Whether it is shown; left out, whoever types decides. */
  shown?: boolean;
  onShow?: (shown: boolean) => void;
}

/** A password that can be looked at: on a small screen nobody types a long one blindly. */
export function SecretField(props: Props) {
  const { label, value, onChange, fresh, autoFocus, className, ref, error } = props;
  const id = useId();
  const [own, setOwn] = useState(false);
  const shown = props.shown ?? own;
  return (
    <div className={className}>
      <label htmlFor={id} className="mb-1 block font-medium">
        {label}
      </label>
      <div className="flex gap-2">
        <TextInput
          id={id}
          size="large"
          className="flex-1 font-mono"
          ref={ref}
          type={shown ? "text" : "password"}
          autoFocus={autoFocus}
          autoComplete={fresh ? "new-password" : "current-password"}
          autoCapitalize="off"
          spellCheck={false}
          maxLength={1000}
          value={value}
          aria-invalid={error !== undefined}
          aria-describedby={error === undefined ? undefined : `${id}-wrong`}
          onChange={(event) => onChange(event.target.value)}
          required
        />
        <Button
          size="large"
          aria-label={`${shown ? "Hide" : "Show"}: ${label}`}
          aria-pressed={shown}
          onClick={() => (props.onShow ?? setOwn)(!shown)}
        >
          {shown ? "Hide" : "Show"}
        </Button>
      </div>
      <Problem id={`${id}-wrong`}>{error}</Problem>
    </div>
  );
}
