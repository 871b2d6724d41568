import { Problem } from "../kit/Problem";
import { useId } from "react";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Form } from "../kit/form/Form";
import { Select, TextInput } from "../kit/inputs";
import { begun, KINDS, kindOf, several, type Field, type RuleKey, type Typed } from "./kinds";

interface Props {
  of: { value: Typed; busy: boolean };
  /** What is wrong with it: of one field, or as a whole. */
  wrong: { field: string; problem: string } | null;
  refused: Error | null;
  layouts: string[];
  lists: string[];
  corpora: string[];
  fresh: boolean;
  onType: (typed: Typed) => void;
  onSubmit: () => void;
  onGiveUp: () => void;
}

/** A rule being put together: its kind, and what that asks for. */
export function RuleForm(props: Props) {
  const { wrong, refused, fresh, onType, onSubmit, onGiveUp } = props;
  const { value: typed, busy } = props.of;
  const kind = kindOf(typed.key);
  return (
    <Form
      of={props.of}
      label={fresh ? "New rule" : "Rule"}
      className="my-1 rounded border border-edge bg-white px-2.5 py-2"
      onSubmit={onSubmit}
    >
      <label className="flex items-center gap-2">
        <span className="w-24 shrink-0">Rule</span>
        <Select
          autoFocus
          className="flex-1"
          value={typed.key}
          onChange={(event) => onType(begun(event.target.value as RuleKey))}
        >
          {KINDS.map((one) => (
            <option key={one.key} value={one.key}>
              {one.label}
            </option>
          ))}
        </Select>
      </label>
      {kind.fields.map((field) => (
        <OneField
          key={field.name}
          field={field}
          value={typed.fields[field.name] ?? ""}
          wrong={wrong?.field === field.name}
          choices={
            field.kind === "layouts"
              ? props.layouts.map((name) => [name, name])
              : field.kind === "lists"
                ? props.lists.map((name) => [name, name])
                : field.kind === "corpora"
                  ? [...new Set([...props.corpora, ...several(typed.fields[field.name])])].map(
                      (name) => [name, name],
                    )
                  : (field.choices ?? [])
          }
          onChange={(value) =>
            onType({ ...typed, fields: { ...typed.fields, [field.name]: value } })
          }
        />
      ))}
      <Problem reserved>{wrong?.problem}</Problem>
      <Refusal error={refused} />
      <div className="flex gap-2">
        <Button type="submit" size="small" tone="main" aria-busy={busy}>
          {busy ? "Saving …" : fresh ? "Add to draft" : "Save to draft"}
        </Button>
        <Button size="small" onClick={onGiveUp}>
          Discard
        </Button>
      </div>
    </Form>
  );
}

const SEVERAL = new Set<Field["kind"]>(["some", "layouts", "lists", "corpora"]);

interface FieldProps {
  field: Field;
  value: string;
  wrong: boolean;
  choices: [string, string][];
  onChange: (value: string) => void;
}

function OneField({ field, value, wrong, choices, onChange }: FieldProps) {
  const id = useId();
  if (field.kind === "tick")
    return (
      <label className="flex h-7 items-center gap-2">
        <input
          type="checkbox"
          checked={value === "yes"}
          onChange={(event) => onChange(event.target.checked ? "yes" : "no")}
        />
        {field.label}
      </label>
    );
  if (SEVERAL.has(field.kind)) {
    const chosen = value.split("\n").filter(Boolean);
    return (
      <fieldset className="pt-1" aria-invalid={wrong}>
        <legend className="text-soft">{field.label}</legend>
        {choices.length === 0 && (
          <p className="text-xs text-warn">
            △{" "}
            {field.kind === "corpora"
              ? "No list is at hand: compile one first (Exposure)."
              : "There is no list yet: make one below."}
          </p>
        )}
        <div className="flex flex-wrap gap-x-3">
          {choices.map(([choice, label]) => (
            <label key={choice} className="flex h-6 min-w-0 items-center gap-1.5">
              <input
                type="checkbox"
                checked={chosen.includes(choice)}
                onChange={(event) =>
                  onChange(
                    choices
                      .map(([one]) => one)
                      .filter((one) =>
                        one === choice ? event.target.checked : chosen.includes(one),
                      )
                      .join("\n"),
                  )
                }
              />
              <span className="truncate" title={label}>
                {label}
              </span>
            </label>
          ))}
        </div>
      </fieldset>
    );
  }
  return (
    <div className="flex items-center gap-2 pt-1">
      <label htmlFor={id} className={field.label.length > 16 ? "flex-1" : "w-24 shrink-0"}>
        {field.label}
      </label>
      {field.kind === "one" ? (
        <Select
          id={id}
          className="flex-1"
          value={value}
          onChange={(event) => onChange(event.target.value)}
        >
          {choices.map(([choice, label]) => (
            <option key={choice} value={choice}>
              {label}
            </option>
          ))}
        </Select>
      ) : (
        <TextInput
          id={id}
          inputMode={field.kind === "count" ? "numeric" : undefined}
          aria-invalid={wrong}
          autoComplete="off"
          spellCheck={false}
          className={field.kind === "count" ? "w-20 text-right font-mono" : "flex-1 font-mono"}
          value={value}
          maxLength={field.kind === "count" ? 9 : 1000}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
    </div>
  );
}
