import { useState } from "react";
import { ApiError, type Schemas } from "../api/client";
import { useCreatePolicy } from "../api/queries";
import { Button, Notice } from "../shared/controls";
import { CountField, NameField } from "./fields";
import { PanelHead } from "./PanelHead";

interface Props {
  domain: string;
  layers: Schemas["Layer"][];
  onMade: (guid: string) => void;
  onClose: () => void;
}

/** Name and place of a new policy; its settings start as a new domain's and are edited from there. */
export function NewPolicy({ domain, layers, onMade, onClose }: Props) {
  const last = layers.at(-1)?.precedence ?? 0;
  const [name, setName] = useState("");
  const [precedence, setPrecedence] = useState<number | undefined>(Math.ceil((last + 1) / 10) * 10);
  const [unreadable, setUnreadable] = useState("");
  const create = useCreatePolicy(domain);
  const refused = create.error instanceof ApiError ? create.error : null;
  const errors = Object.fromEntries((refused?.fields ?? []).map((f) => [f.field, f.message]));
  const tied = layers.find((layer) => layer.precedence === precedence);
  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        if (precedence !== undefined && !unreadable) {
          create.mutate({ name: name.trim(), precedence, settings: {} }, { onSuccess: (made) => onMade(made.guid) });
        }
      }}
    >
      <PanelHead title="New policy" detail="It reaches nobody until you link it." onClose={onClose} />
      <div className="space-y-3 px-4">
        <div>
          <NameField value={name} error={errors.name && name.trim() === "" ? "Give it a name." : errors.name} onChange={setName} />
          <CountField
            id="precedence"
            label="Precedence"
            unit=""
            hint="Of the policies that reach an account through groups, the lowest number wins."
            value={precedence ?? 1}
            low={1}
            error={unreadable || errors.precedence}
            onChange={(value, message) => {
              setUnreadable(message);
              if (value !== undefined) setPrecedence(value);
            }}
          />
          {tied && <p className="pt-0.5 text-xs text-warn">△ {tied.name} has {precedence} already; at a tie the object GUID decides.</p>}
        </div>
        <p className="text-soft">
          Its settings start as those of a new domain: 7 characters with complexity, 24 remembered, 1 to 42 days, no lockout. You change them next.
        </p>
        {refused && refused.fields.length === 0 && (
          <Notice tone="fail" role="alert">
            {refused.message}
          </Notice>
        )}
        <div className="flex gap-2">
          <Button tone="main" type="submit" disabled={create.isPending || name.trim() === ""}>
            Create
          </Button>
          <Button onClick={onClose}>Cancel</Button>
        </div>
      </div>
    </form>
  );
}
