import { useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { useOwnChange } from "../api/you";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Form } from "../kit/form/Form";
import { refusalsOf } from "../kit/form/refusals";
import { SecretField } from "../kit/SecretField";
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
  const refused = refusalsOf(change.error, ["present", "fresh"]);
  const type = (part: Partial<Typed>) => {
    // What was refused is not what stands there now.
    change.reset();
    onType({ ...typed, ...part });
  };
  return (
    <Form
      of={{ value: typed, busy: change.isPending }}
      label="Change your password"
      className="space-y-3 rounded-md border border-line bg-white p-3.5"
      onSubmit={() =>
        change.mutate(typed, {
          onSuccess: () => {
            setShown(false);
            onChanged();
          },
        })
      }
    >
      <h2 className="text-[17px]">Change it</h2>
      <input type="text" autoComplete="username" value={you.name} readOnly hidden />
      <SecretField
        label="Present password"
        value={typed.present}
        error={refused.of("present")}
        onChange={(present) => type({ present })}
      />
      <SecretField
        label="New password"
        fresh
        ref={fresh}
        value={typed.fresh}
        error={refused.of("fresh")}
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
      <Refusal error={error} />
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
      <Refusal error={refused.whole} />
    </Form>
  );
}
