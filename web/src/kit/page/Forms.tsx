import { Button } from "../Button";
import { Confirmation } from "../Confirmation";
import { Field } from "../Field";
import { Form } from "../form/Form";
import { useForm, type Write } from "../form/useForm";
import { TextInput } from "../inputs";
import { ReasonForm } from "../ReasonForm";
import { SaveBar } from "../SaveBar";
import { SaveWithReason } from "../SaveWithReason";

const nothing = () => undefined;
const IDLE = { error: null, isPending: false, reset: nothing };

/** Forms: as stored, under way, refused, asked for a reason and asked once more. */
export function Forms() {
  return (
    <>
      <OneForm label="As stored" writes={[IDLE]} />
      <OneForm label="Under way" writes={[{ ...IDLE, isPending: true }]} />
      <OneForm label="Refused" writes={[{ ...IDLE, error: new Error("The name is taken.") }]} />
      <ReasonForm act="Change links" busy={false} onAct={nothing} onKeep={nothing}>
        From then on links to every security group count.
      </ReasonForm>
      <SaveWithReason
        changed
        overtaken
        busy={false}
        onSave={nothing}
        onLeave={nothing}
        onTheirs={nothing}
      >
        The first report comes on Monday.
      </SaveWithReason>
      <Confirmation
        tone="danger"
        act="Delete the policy"
        busy={false}
        onAct={nothing}
        keep="Keep the policy"
        onKeep={nothing}
      >
        60 accounts would fall to the domain policy.
      </Confirmation>
      <SaveBar
        lines={["Minimum length: 12 → 14"]}
        sentence="Hits 60 accounts."
        busy={false}
        blocked={false}
        onDiscard={nothing}
      />
    </>
  );
}

function OneForm({ label, writes }: { label: string; writes: Write[] }) {
  const form = useForm({ work: null, start: { name: "Kiosk floor" }, writes });
  return (
    <Form of={form} label={label} className="flex flex-wrap items-end gap-2" onSubmit={nothing}>
      <Field label={`Name (${label.toLowerCase()})`} problem={form.refusal?.message}>
        <TextInput
          value={form.value.name}
          onChange={(event) => form.change({ name: event.target.value })}
        />
      </Field>
      <Button type="submit" tone="main" aria-busy={form.busy}>
        {form.busy ? "Saving …" : "Save"}
      </Button>
      {form.changed && <Button onClick={form.reset}>Discard</Button>}
    </Form>
  );
}
