import { useState } from "react";
import { Check } from "../Check";
import { Choices } from "../Choices";
import { Field } from "../Field";
import { Select, TextArea, TextInput } from "../inputs";
import { MomentField } from "../MomentField";
import { Problem } from "../Problem";
import { SecretField } from "../SecretField";
import { Tick } from "../Tick";

/** Fields: empty, filled, refused and off. */
export function Fields() {
  const [secret, setSecret] = useState("");
  const [moment, setMoment] = useState("2026-03-02T09:30:00Z");
  const [choice, setChoice] = useState<"live" | "draft">("live");
  const [checked, setChecked] = useState(true);
  return (
    <>
      <Field label="Name">
        <TextInput className="w-full" placeholder="such as dc1" />
      </Field>
      <Field label="Minimum length" problem="Between 0 and 255.">
        <TextInput className="w-full" aria-invalid defaultValue="300" />
      </Field>
      <Field label="Off">
        <TextInput className="w-full" disabled defaultValue="cannot be changed" />
      </Field>
      <Field label="Addresses, one a line">
        <TextArea rows={2} defaultValue={"ann@tarnholt.example\nben@tarnholt.example"} />
      </Field>
      <Field label="Day of the week">
        <Select className="w-full">
          <option>Monday</option>
          <option>Tuesday</option>
        </Select>
      </Field>
      <SecretField label="Password" value={secret} onChange={setSecret} />
      <SecretField
        label="Refused password"
        value={secret}
        error="Not the present password."
        onChange={setSecret}
      />
      <MomentField label="As of" value={moment} empty="now" onChange={setMoment} />
      <Choices
        label="Estate"
        value={choice}
        onChange={setChoice}
        choices={[
          { value: "live", label: "Live" },
          { value: "draft", label: "Draft" },
        ]}
      />
      <Check checked={checked} onChange={setChecked}>
        with a meaning beside the box
      </Check>
      <Check checked disabled onChange={setChecked}>
        cannot be changed
      </Check>
      <Tick label="decided by the server" checked={false} onChange={() => Promise.resolve()} />
      <Problem>Type a whole number.</Problem>
    </>
  );
}
