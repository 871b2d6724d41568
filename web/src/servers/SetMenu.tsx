import { useState } from "react";
import type { Schemas } from "../api/client";
import type { useServerSetWrites } from "../api/servers";
import { Confirmation } from "../kit/Confirmation";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Drop } from "../kit/Drop";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { TextInput } from "../kit/inputs";
import { plural } from "../shared/span";

interface Props {
  set: Schemas["ServerSetInfo"];
  writes: ReturnType<typeof useServerSetWrites>;
  onGone: () => void;
}

/** Another name for a set, or none of it any more. */
export function SetMenu({ set, writes: { rename, drop }, onGone }: Props) {
  const [open, setOpen] = useState(false);
  const [asked, ask] = useState(false);
  const form = useForm({ work: null, start: set.name, writes: [rename, drop] });
  const name = form.value.trim();
  const total = set.agree + set.differ + set.unread;
  return (
    <Drop
      label={`The set ${set.name}`}
      align="end"
      className="w-80"
      open={open}
      onOpenChange={(now) => {
        setOpen(now);
        ask(false);
        form.reset();
      }}
      trigger={<Button aria-label={`More about ${set.name}`}>…</Button>}
    >
      <Form
        of={form}
        onSubmit={() => {
          if (name)
            form.send(
              () => rename.mutateAsync(name),
              () => setOpen(false),
            );
        }}
      >
        <label className="block">
          Name of the set
          <TextInput
            className="mt-0.5 block w-full"
            maxLength={64}
            required
            value={form.value}
            onChange={(event) => form.set(event.target.value)}
          />
        </label>
        <div className="mt-2 flex gap-2">
          <Button type="submit" disabled={rename.isPending || !name}>
            Rename
          </Button>
          {!asked && (
            <Button tone="quiet" onClick={() => ask(true)}>
              Drop the set …
            </Button>
          )}
        </div>
      </Form>
      {asked && (
        <div className="mt-2">
          <Confirmation
            tone="danger"
            act="Drop it"
            busy={drop.isPending}
            onAct={() =>
              drop.mutate(undefined, {
                onSuccess: () => {
                  setOpen(false);
                  onGone();
                },
              })
            }
            keep="Keep it"
            onKeep={() => ask(false)}
          >
            {plural(total, "server")} with all that was read of {total === 1 ? "it" : "them"} would
            be forgotten. Nothing changes on the servers.
          </Confirmation>
        </div>
      )}
      <Refusal error={rename.error ?? drop.error} />
    </Drop>
  );
}
