import { useRef, useState } from "react";
import { ApiError, type Schemas } from "../api/client";
import { useOwnChange } from "../api/you";
import { Button, Refused } from "../shared/controls";
import { SecretField } from "./SecretField";
import { Suggestions } from "./Suggestions";

export interface Typed {
  present: string;
  fresh: string;
}

interface Props {
  you: Schemas["OwnInfo"];
  typed: Typed;
  onType: (typed: Typed) => void;
  onChanged: () => void;
  /** What is said to the new one as it stands; null while that is asked. */
  verdict: Schemas["OwnVerdict"] | null;
  error: Error | null;
}

/** Another password for oneself, in the directory. */
export function ChangeForm({ you, typed, onType, onChanged, verdict, error }: Props) {
  const [shown, setShown] = useState(false);
  const change = useOwnChange();
  const fresh = useRef<HTMLInputElement>(null);
  const fields = change.error instanceof ApiError ? change.error.fields : [];
  const wrong = (field: string) => fields.find((one) => one.field === field)?.message;
  const type = (part: Partial<Typed>) => {
    // What was refused is not what stands there now.
    change.reset();
    onType({ ...typed, ...part });
  };
  return (
    <form
      aria-label="Change your password"
      className="space-y-3 rounded-md border border-line bg-white p-3.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (change.isPending) return;
        change.mutate(typed, {
          onSuccess: () => {
            setShown(false);
            onChanged();
          },
        });
      }}
    >
      <h2 className="text-[17px]">Change it</h2>
      <input type="text" autoComplete="username" value={you.name} readOnly hidden />
      <SecretField
        label="Present password"
        value={typed.present}
        error={wrong("present")}
        onChange={(present) => type({ present })}
      />
      <SecretField
        label="New password"
        fresh
        ref={fresh}
        value={typed.fresh}
        error={wrong("fresh")}
        shown={shown}
        onShow={setShown}
        onChange={(value) => type({ fresh: value })}
      />
      <p
        role="status"
        className={`min-h-[46px] text-sm ${verdict ? (verdict.accepted ? "text-pass" : "text-fail") : "text-soft"}`}
      >
        {change.isSuccess && typed.fresh === ""
          ? "✓ Changed. It is the one to sign in with from now on, everywhere."
          : typed.fresh === ""
            ? "It is checked as you type and kept nowhere."
            : verdict
              ? verdict.told
              : !error && "…"}
      </p>
      <Refused error={error} />
      <Suggestions
        onTake={(text) => {
          setShown(true);
          type({ fresh: text });
          fresh.current?.focus();
        }}
      />
      <Button type="submit" tone="main" size="large" aria-busy={change.isPending}>
        Change it
      </Button>
      {fields.length === 0 && <Refused error={change.error} />}
    </form>
  );
}
