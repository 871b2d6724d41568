import { useState } from "react";
import type { Schemas } from "../api/client";
import { useRemoveDomain } from "../api/domains";
import { Alert } from "../kit/Alert";
import { Button } from "../kit/Button";
import { TextInput } from "../kit/inputs";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";

/** Taking a domain out of Hornfels, once its name is typed. */
export function Removal({ info }: { info: Schemas["DomainInfo"] }) {
  const [asked, setAsked] = useState(false);
  const remove = useRemoveDomain();
  const form = useForm({ work: null, start: { name: "", reason: "" }, writes: [remove] });
  const { name, reason } = form.value;
  const ready = name === info.dns_name && reason.trim() !== "";
  const close = () => {
    setAsked(false);
    form.reset();
  };
  if (!asked)
    return (
      <Button tone="quiet" className="mt-1.5 -ml-2.5" onClick={() => setAsked(true)}>
        Take {info.dns_name} out …
      </Button>
    );
  return (
    <Form
      of={form}
      ref={(element) => element?.scrollIntoView({ block: "nearest" })}
      className="mt-2"
      label={`Take ${info.dns_name} out`}
      onSubmit={() => {
        if (ready) remove.mutate({ domain: info.dns_name, version: info.version, reason });
      }}
    >
      <Alert tone="fail">
        <p>
          This deletes what Hornfels keeps of {info.dns_name}: its drafts, history, trials and
          accepted findings. The directory keeps all it has. It cannot be undone.
        </p>
        <label className="mt-1.5 block">
          Type its name to go on
          <TextInput
            autoFocus
            className="mt-0.5 block w-full"
            {...form.text("name")}
            autoComplete="off"
            onKeyDown={(event) => event.key === "Escape" && close()}
          />
        </label>
        <label className="mt-1.5 block">
          Why
          <TextInput
            className="mt-0.5 block w-full"
            placeholder="It stands in the trail"
            maxLength={500}
            {...form.text("reason")}
            onKeyDown={(event) => event.key === "Escape" && close()}
          />
        </label>
        <div className="mt-2 flex gap-2">
          <Button type="submit" tone="danger" disabled={!ready || form.busy}>
            Take it out
          </Button>
          <Button onClick={close}>Keep it</Button>
        </div>
        {remove.isSuccess && <p role="status">It waits until a second person has confirmed it.</p>}
        {remove.error && <p role="alert">{remove.error.message}</p>}
      </Alert>
    </Form>
  );
}
