import { useId, useState } from "react";
import type { Schemas } from "../api/client";
import { useAccountDeed } from "../api/locks";
import { at } from "../draft/place";
import { announce } from "../shared/announce";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { TextInput } from "../kit/inputs";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { plural } from "../shared/span";
import { DeedDone } from "./DeedDone";

/** Asks for the chosen accounts to be unlocked, with a reason; then says how it is carried out. */
export function UnlockBar({
  domain,
  accounts,
  onDone,
}: {
  domain: string;
  accounts: string[];
  onDone: () => void;
}) {
  const unlock = useAccountDeed(domain, "unlockings");
  const renew = useAccountDeed(domain, "must-change");
  const [done, setDone] = useState<Schemas["UnlockingInfo"] | null>(null);
  const form = useForm({
    work: {
      place: domain,
      about: "unlocking",
      label: "A reason to unlock, not asked for yet",
      to: `/${at(domain)}/accounts?view=locked`,
    },
    start: "",
    writes: [unlock, renew],
  });
  const reason = form.value;
  const field = useId();
  if (accounts.length === 0 && done === null && reason === "") return null;
  const ask = (deed: typeof unlock) => {
    unlock.reset();
    renew.reset();
    form.send(
      () => deed.mutateAsync({ accounts, reason }),
      (found, sent) => {
        form.saved(sent);
        setDone(found);
        onDone();
        announce(
          found.told === null
            ? "Written into the history. The directory has to carry it out."
            : "The directory was asked.",
        );
        return "unlocking-done";
      },
    );
  };
  return (
    <Form
      of={form}
      label="Unlock"
      className="shrink-0 space-y-1 border-t border-line bg-sheet px-4 py-2 small:px-2"
      onSubmit={() => {
        if (accounts.length > 0 && reason.trim() !== "") ask(unlock);
      }}
    >
      {done !== null && accounts.length === 0 && <DeedDone domain={domain} done={done} />}
      {(accounts.length > 0 || reason !== "") && (
        <p className="flex flex-wrap items-center gap-x-2 gap-y-1">
          <label htmlFor={field}>Reason</label>
          <TextInput
            id={field}
            className="min-w-40 flex-1"
            value={reason}
            maxLength={500}
            placeholder="Called in and was recognised"
            onChange={(event) => form.set(event.target.value)}
          />
          <Button
            type="submit"
            tone="main"
            disabled={accounts.length === 0 || reason.trim() === "" || unlock.isPending}
          >
            {accounts.length === 0
              ? "Choose who is to be unlocked"
              : `Unlock ${accounts.length === 1 ? accounts[0] : plural(accounts.length, "account")}`}
          </Button>
          {accounts.length > 0 && (
            <Button disabled={reason.trim() === "" || renew.isPending} onClick={() => ask(renew)}>
              Have the password changed
            </Button>
          )}
        </p>
      )}
      <Refusal error={unlock.error ?? renew.error} />
    </Form>
  );
}
