import { useParams } from "react-router";
import type { Schemas } from "../api/client";
import { useMakeCaller, type CallerKind } from "../api/gate";
import { at } from "../draft/place";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Select, TextInput } from "../kit/inputs";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { KINDS } from "./kinds";

interface Typed {
  title: string;
  kind: CallerKind;
  reason: string;
}

const START: Typed = { title: "", kind: "hook", reason: "" };
const isBlank = (typed: Typed) => typed.title === "" && typed.reason === "";

interface Props {
  domain: string;
  onMade: (made: Schemas["CallerMade"]) => void;
}

/** Lets one more ask. */
export function NewCaller({ domain, onMade }: Props) {
  const { domain: place = "-" } = useParams();
  const work = {
    place,
    about: `caller of ${domain}`,
    label: "A caller at the gate",
    to: `/${at(place)}/sources?gate=${encodeURIComponent(domain)}`,
  };
  const make = useMakeCaller(domain);
  const form = useForm<Typed>({ work, start: START, isBlank, writes: [make] });
  const { title, kind, reason } = form.value;
  const wrong = form.errorOf("title");
  return (
    <Form
      of={form}
      label="New caller"
      className="mt-2 space-y-1.5 pb-1"
      onSubmit={() =>
        form.send(
          () => make.mutateAsync({ title: title.trim(), kind, reason: reason.trim() }),
          (made, sent) => {
            form.saved(sent);
            onMade(made);
          },
        )
      }
    >
      <p className="text-soft">Let one more ask:</p>
      <Select
        aria-label="What it is"
        className="block w-full"
        value={kind}
        onChange={(event) => form.change({ kind: event.target.value as CallerKind })}
      >
        {Object.entries(KINDS).map(([kind, { label }]) => (
          <option key={kind} value={kind}>
            {label}
          </option>
        ))}
      </Select>
      <TextInput
        aria-label="What it is called"
        placeholder="called, such as dc1"
        className="block w-full"
        maxLength={100}
        required
        aria-invalid={wrong ? true : undefined}
        {...form.text("title")}
      />
      <div className="flex gap-1.5">
        <TextInput
          aria-label="Reason"
          placeholder="Reason"
          title="Recorded in the audit log"
          className="min-w-0 flex-1"
          maxLength={500}
          required
          {...form.text("reason")}
        />
        <Button type="submit" aria-busy={make.isPending}>
          Let it ask
        </Button>
      </div>
      <Refusal error={wrong ?? make.error} />
    </Form>
  );
}
