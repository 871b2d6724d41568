import { useState } from "react";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { TextInput } from "../kit/inputs";
import { Form } from "../kit/form/Form";
import { useForm, type Write } from "../kit/form/useForm";
import type { Work } from "./kept";
import { MomentField } from "../kit/MomentField";
import { localDay } from "./moments";

const unsaid = ({ reason }: { reason: string }) => reason === "";

interface Props {
  work: Work;
  /** The write that accepts, and how to begin the write. */
  write: Write;
  accept: (said: { reason: string; until: string }) => Promise<unknown>;
  onDone: () => void;
}

/** Something is all right for a while: why, and until when. */
export function AcceptForm({ work, write, accept, onDone }: Props) {
  const [start] = useState(() => ({
    reason: "",
    until: new Date(Date.now() + 90 * 86_400_000).toISOString(),
  }));
  const form = useForm({ work, start, isBlank: unsaid, writes: [write] });
  const { reason, until } = form.value;
  return (
    <Form
      of={form}
      className="mt-1 flex flex-wrap gap-2"
      onSubmit={() =>
        form.send(
          () => accept({ reason: reason.trim(), until: localDay(until) }),
          (_, sent) => {
            form.saved(sent);
            onDone();
          },
        )
      }
    >
      <TextInput
        aria-label="Reason"
        className="flex-1"
        placeholder="Why this is all right"
        {...form.text("reason")}
        minLength={3}
        required
      />
      <MomentField
        label="Until"
        dayOnly
        className="w-32"
        value={until}
        onChange={(next) => form.change({ until: next })}
      />
      <Button type="submit" disabled={form.busy || reason.trim().length < 3 || until === ""}>
        Accept
      </Button>
      <Refusal error={write.error} />
    </Form>
  );
}
