import { useTestLetter, type Mailing } from "../api/mailing";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { TextInput } from "../kit/inputs";
import { PartHead } from "../kit/PartHead";

/** One letter to oneself, to see that they get out. */
export function TestLetter({ domain, mailing }: { domain: string; mailing: Mailing }) {
  const test = useTestLetter(domain);
  const form = useForm({ work: null, start: "", writes: [test] });
  const address = form.value;
  return (
    <section aria-label="A test letter">
      <PartHead>A test letter</PartHead>
      <Form
        of={form}
        className="mt-1 flex gap-1.5"
        onSubmit={() => test.mutate({ mailing, address })}
      >
        <TextInput
          type="email"
          aria-label="Address for the test"
          placeholder="name@example.com"
          className="flex-1"
          required
          maxLength={254}
          value={address}
          onChange={(event) => {
            test.reset();
            form.set(event.target.value);
          }}
        />
        <Button type="submit" aria-busy={test.isPending}>
          Send it
        </Button>
      </Form>
      <p role="status" className="min-h-5 text-pass">
        {test.isSuccess && `✓ The mail server has taken it for ${test.variables.address}.`}
      </p>
      <Refusal error={test.error} />
    </section>
  );
}
