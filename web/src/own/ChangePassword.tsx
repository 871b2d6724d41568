import { useState } from "react";
import { ApiError } from "../api/client";
import { useChangePassword } from "../api/people";
import { announce } from "../shared/announce";
import { Button, Refused } from "../shared/controls";
import { PasswordInput, WhoseForm } from "../shared/PasswordInput";

const START = { present: "", fresh: "" };

/** Another password for oneself. What is asked of it is judged like any password of a domain. */
export function ChangePassword() {
  const [form, setForm] = useState(START);
  const change = useChangePassword();
  const fields = change.error instanceof ApiError ? change.error.fields : [];
  const wrong = (field: string) => fields.find((one) => one.field === field)?.message;
  return (
    <form
      aria-label="Change your password"
      onSubmit={(event) => {
        event.preventDefault();
        if (change.isPending) return;
        change.mutate(form, {
          onSuccess: () => {
            setForm(START);
            announce("Your password is changed.");
          },
        });
      }}
    >
      <WhoseForm />
      <PasswordInput
        label="Present password"
        value={form.present}
        error={wrong("present")}
        onChange={(present) => setForm({ ...form, present })}
      />
      <PasswordInput
        label="New password"
        fresh
        value={form.fresh}
        error={wrong("fresh")}
        onChange={(fresh) => setForm({ ...form, fresh })}
      />
      <Button type="submit" tone="main" aria-busy={change.isPending}>
        Change it
      </Button>
      <div className="mt-3 min-h-9" role="status">
        {change.isSuccess && (
          <span className="text-pass">✓ Changed. Other sessions have ended.</span>
        )}
        {fields.length === 0 && <Refused error={change.error} />}
      </div>
    </form>
  );
}
