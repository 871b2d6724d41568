import { useMakeServerSet } from "../api/servers";
import { at } from "../draft/place";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { TextInput } from "../kit/inputs";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";

/** A new set of servers, by its name. */
export function NewSet({ domain, onMade }: { domain: string; onMade: (id: number) => void }) {
  const make = useMakeServerSet(domain);
  const work = {
    place: domain,
    about: "new set of servers",
    label: "The name of a new set of servers",
    to: `/${at(domain)}/servers?set=new`,
  };
  const form = useForm({ work, start: "", writes: [make] });
  const name = form.value.trim();
  return (
    <Form
      of={form}
      label="New set of servers"
      onSubmit={() => {
        if (!name) return;
        form.send(
          () => make.mutateAsync(name),
          ({ id }, sent) => {
            form.saved(sent);
            onMade(id);
          },
        );
      }}
    >
      <div className="flex flex-wrap items-end gap-2">
        <label className="min-w-0">
          A new set
          <TextInput
            className="mt-0.5 block w-56 max-w-full"
            placeholder="such as Web servers"
            maxLength={64}
            required
            value={form.value}
            onChange={(event) => form.set(event.target.value)}
          />
        </label>
        <Button type="submit" tone="main" disabled={form.busy || !name}>
          Make it
        </Button>
      </div>
      <Refusal error={make.error} />
    </Form>
  );
}
