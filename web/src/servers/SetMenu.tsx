import { useState } from "react";
import type { Schemas } from "../api/client";
import type { useServerSetWrites } from "../api/servers";
import { Confirmation } from "../shared/Confirmation";
import { Button, Refused } from "../shared/controls";
import { Drop } from "../shared/Drop";
import { TextInput } from "../shared/fields";
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
  const [name, setName] = useState(set.name);
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
        setName(set.name);
        rename.reset();
        drop.reset();
      }}
      trigger={<Button aria-label={`More about ${set.name}`}>…</Button>}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() && !rename.isPending)
            rename.mutate(name.trim(), { onSuccess: () => setOpen(false) });
        }}
      >
        <label className="block">
          Name of the set
          <TextInput
            className="mt-0.5 block w-full"
            maxLength={64}
            required
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <div className="mt-2 flex gap-2">
          <Button type="submit" disabled={rename.isPending || !name.trim()}>
            Rename
          </Button>
          {!asked && (
            <Button tone="quiet" onClick={() => ask(true)}>
              Drop the set …
            </Button>
          )}
        </div>
      </form>
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
      <Refused error={rename.error ?? drop.error} />
    </Drop>
  );
}
