import { Button } from "../kit/Button";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { TextInput } from "../kit/inputs";

/** Connect the directory of a domain that is not here yet. */
export function ConnectNew({ onChosen }: { onChosen: (domain: string) => void }) {
  const form = useForm({ work: null, start: "", writes: [] });
  return (
    <section
      aria-label="Connect a directory"
      className="mt-5 rounded-md border border-line bg-sheet p-3"
    >
      <h2 className="mb-1 text-sm">Connect a directory</h2>
      <p className="text-soft">
        Read a domain from its own servers, and again by itself, instead of from dumps.
      </p>
      <Form
        of={form}
        className="mt-2 flex flex-wrap gap-2"
        onSubmit={() => {
          const chosen = form.value.trim().toLowerCase();
          if (chosen) onChosen(chosen);
        }}
      >
        <TextInput
          aria-label="DNS name of the domain"
          placeholder="DNS name of the domain"
          className="w-56 flex-auto"
          maxLength={255}
          value={form.value}
          onChange={(event) => form.set(event.target.value)}
        />
        <Button type="submit">Connect …</Button>
      </Form>
    </section>
  );
}
