import { useState } from "react";
import { Button, Refused } from "./controls";
import { TextInput } from "./fields";
import { useKept, type Work } from "./kept";
import { MomentField } from "./MomentField";
import { localDay } from "./moments";

const unsaid = ({ reason }: { reason: string }) => reason === "";

interface Props {
  work: Work;
  accept: (said: { reason: string; until: string }) => Promise<unknown>;
  busy: boolean;
  error: Error | null;
  onDone: () => void;
}

/** Something is all right for a while: why, and until when. */
export function AcceptForm({ work, accept, busy, error, onDone }: Props) {
  const [start] = useState(() => ({
    reason: "",
    until: new Date(Date.now() + 90 * 86_400_000).toISOString(),
  }));
  const [form, setForm, forget] = useKept(work, start, unsaid);
  const { reason, until } = form;
  return (
    <form
      className="mt-1 flex flex-wrap gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void accept({ reason: reason.trim(), until: localDay(until) }).then(
          () => {
            forget(form);
            onDone();
          },
          () => undefined,
        );
      }}
    >
      <TextInput
        aria-label="Reason"
        className="flex-1"
        placeholder="Why this is all right"
        value={reason}
        onChange={(e) => setForm({ ...form, reason: e.target.value })}
        minLength={3}
        required
      />
      <MomentField
        label="Until"
        dayOnly
        className="w-32"
        value={until}
        onChange={(next) => setForm({ ...form, until: next })}
      />
      <Button type="submit" disabled={busy || reason.trim().length < 3 || until === ""}>
        Accept
      </Button>
      <Refused error={error} />
    </form>
  );
}
