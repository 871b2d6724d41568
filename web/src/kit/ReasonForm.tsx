import { Alert } from "./Alert";
import { Button } from "./Button";
import { Form } from "./form/Form";
import { useForm } from "./form/useForm";
import { TextInput } from "./inputs";

interface Props {
  /** What would be done, and what comes of it. */
  children: string;
  act: string;
  busy: boolean;
  onAct: (reason: string) => void;
  onKeep: () => void;
}

/** Asks for a reason before something that stands in the trail with it. */
export function ReasonForm({ children, act, busy, onAct, onKeep }: Props) {
  const form = useForm({ work: null, start: "", writes: [] });
  const reason = form.value.trim();
  return (
    <Form
      of={{ ...form, busy }}
      ref={(element) => element?.scrollIntoView({ block: "nearest" })}
      onSubmit={() => {
        if (reason) onAct(reason);
      }}
    >
      <Alert tone="warn">
        <label className="block">
          {children}
          <TextInput
            autoFocus
            aria-label="Why"
            placeholder="Why: it stands in the trail"
            className="mt-1 block w-full"
            maxLength={500}
            value={form.value}
            onChange={(event) => form.set(event.target.value)}
            onKeyDown={(event) => {
              if (event.key !== "Escape") return;
              event.stopPropagation();
              onKeep();
            }}
          />
        </label>
        <div className="mt-1.5 flex gap-2">
          <Button type="submit" tone="main" disabled={busy || !reason}>
            {act}
          </Button>
          <Button onClick={onKeep}>Leave it</Button>
        </div>
      </Alert>
    </Form>
  );
}
