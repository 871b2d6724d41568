import { useState } from "react";
import type { Schemas } from "../api/client";
import { useRemoveDomain } from "../api/domains";
import { Button, Notice } from "../shared/controls";
import { TextInput } from "../shared/fields";

/** Taking a domain out of Hornfels, once its name is typed. */
export function Removal({ info }: { info: Schemas["DomainInfo"] }) {
  const [asked, setAsked] = useState(false);
  const [typed, setTyped] = useState("");
  const [reason, setReason] = useState("");
  const remove = useRemoveDomain();
  const close = () => {
    setAsked(false);
    setTyped("");
    remove.reset();
  };
  if (!asked)
    return (
      <Button tone="quiet" className="mt-1.5 -ml-2.5" onClick={() => setAsked(true)}>
        Take {info.dns_name} out …
      </Button>
    );
  return (
    <form
      ref={(form) => form?.scrollIntoView({ block: "nearest" })}
      className="mt-2"
      aria-label={`Take ${info.dns_name} out`}
      onSubmit={(event) => {
        event.preventDefault();
        if (typed === info.dns_name && reason.trim())
          remove.mutate({ domain: info.dns_name, version: info.version, reason });
      }}
    >
      <Notice tone="fail">
        <p>
          This deletes what Hornfels keeps of {info.dns_name}: its drafts, history, trials and
          accepted findings. The directory keeps all it has. It cannot be undone.
        </p>
        <label className="mt-1.5 block">
          Type its name to go on
          <TextInput
            autoFocus
            className="mt-0.5 block w-full"
            value={typed}
            autoComplete="off"
            onChange={(event) => setTyped(event.target.value)}
            onKeyDown={(event) => event.key === "Escape" && close()}
          />
        </label>
        <label className="mt-1.5 block">
          Why
          <TextInput
            className="mt-0.5 block w-full"
            placeholder="It stands in the trail"
            maxLength={500}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            onKeyDown={(event) => event.key === "Escape" && close()}
          />
        </label>
        <div className="mt-2 flex gap-2">
          <Button
            type="submit"
            tone="danger"
            disabled={typed !== info.dns_name || !reason.trim() || remove.isPending}
          >
            Take it out
          </Button>
          <Button onClick={close}>Keep it</Button>
        </div>
        {remove.isSuccess && <p role="status">It waits until a second person has confirmed it.</p>}
        {remove.error && <p role="alert">{remove.error.message}</p>}
      </Notice>
    </form>
  );
}
