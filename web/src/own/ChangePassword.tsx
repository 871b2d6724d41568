import { useChangePassword } from "../api/people";
import { announce } from "../shared/announce";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { SecretField } from "../kit/SecretField";
import { WhoseForm } from "../shared/WhoseForm";

const START = { present: "", fresh: "" };

/** Another password for oneself. What is asked of it is judged like any password of a domain. */
export function ChangePassword() {
  const change = useChangePassword();
  const form = useForm({
    work: null,
    start: START,
    writes: [change],
    shows: ["present", "fresh"],
  });
  return (
    <Form
      of={form}
      label="Change your password"
      className="space-y-4"
      onSubmit={() =>
        form.send(
          () => change.mutateAsync(form.value),
          (_, sent) => {
            form.saved(sent);
            announce("Your password is changed.");
          },
        )
      }
    >
      <WhoseForm />
      <SecretField
        label="Present password"
        value={form.value.present}
        error={form.errorOf("present")}
        onChange={(present) => form.change({ present })}
      />
      <SecretField
        label="New password"
        fresh
        value={form.value.fresh}
        error={form.errorOf("fresh")}
        onChange={(fresh) => form.change({ fresh })}
      />
      <Button type="submit" tone="main" aria-busy={change.isPending}>
        Change it
      </Button>
      <div className="mt-3 min-h-9" role="status">
        {change.isSuccess && (
          <span className="text-pass">✓ Changed. Other sessions have ended.</span>
        )}
        <Refusal error={form.refusal} />
      </div>
    </Form>
  );
}
