import type { Schemas } from "../api/client";
import { useCatalogue, useCreatePolicy, useStartingPoints } from "../api/policies";
import { announce } from "../shared/announce";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { valueWithUnit } from "./edits";
import { CountField, NameField } from "./fields";
import { PanelHead } from "../kit/PanelHead";
import { at } from "../draft/place";
import { Select } from "../kit/inputs";

interface Props {
  domain: string;
  layers: Schemas["Layer"][];
  /** The policy to begin with a copy of, if any. */
  copyOf: string;
  onMade: (guid: string) => void;
  onClose: () => void;
}

interface Typed {
  name: string;
  precedence: number;
  start: NonNullable<Schemas["PolicyNew"]["start"]>;
  withLinks: boolean;
  /** What is wrong with a precedence that could not be read, and its text. */
  unreadable: string;
  text: string;
  touched: boolean;
}

const untouched = (form: Typed) => !form.touched;

/** Name, place and starting point of a new policy; everything is edited from there. */
export function NewPolicy({ domain, layers, copyOf, onMade, onClose }: Props) {
  const model = layers.find((layer) => layer.guid === copyOf);
  const points = useStartingPoints();
  const catalogue = useCatalogue();
  const last = layers.at(-1)?.precedence ?? 0;
  const create = useCreatePolicy(domain);
  const form = useForm<Typed>({
    work: {
      place: domain,
      about: `new ${copyOf}`,
      label: model ? `Copy of ${model.name}` : "New policy",
      to: `/${at(domain)}/strata?policy=new${copyOf && `&copy=${copyOf}`}`,
    },
    start: {
      name: model ? `${model.name} copy` : "",
      precedence: Math.ceil((last + 1) / 10) * 10,
      start: "new-domain",
      withLinks: false,
      unreadable: "",
      text: "",
      touched: false,
    },
    isBlank: untouched,
    writes: [create],
    shows: ["name", "precedence"],
    check: (typed) => ({ precedence: typed.unreadable }),
  });
  const { name, precedence, start, withLinks } = form.value;
  const set = (typed: Partial<Typed>) => form.change({ ...typed, touched: true });
  const tied = layers.find((layer) => layer.precedence === precedence);
  const point = points.data?.find((p) => p.key === start);
  const settings = model ? model.settings : point?.settings;
  return (
    <Form
      of={form}
      onSubmit={() => {
        if (form.blocked) return;
        form.send(
          () =>
            create.mutateAsync({
              name: name.trim(),
              precedence,
              start,
              copy_of: model ? copyOf : null,
              same_links: withLinks,
              settings: {},
              links: [],
            }),
          ({ result }, sent) => {
            form.saved(sent);
            onMade(result.guid);
            announce("Created in the draft.");
            return "add-link";
          },
        );
      }}
    >
      <PanelHead
        title={model ? `Copy of ${model.name}` : "New policy"}
        detail={
          model && withLinks ? "It takes the same links." : "It reaches nobody until you link it."
        }
        onClose={onClose}
      />
      <div className="space-y-3 px-4">
        <div>
          <NameField
            first
            value={name}
            error={form.errors.name && name.trim() === "" ? "Give it a name." : form.errors.name}
            onChange={(typed) => set({ name: typed })}
          />
          <CountField
            id="precedence"
            label="Precedence"
            unit=""
            hint="Of the policies that reach an account through groups, the lowest number wins."
            value={precedence}
            low={1}
            error={form.errors.precedence}
            typed={form.value.text}
            onChange={(value, message, text) =>
              set({ precedence: value ?? precedence, unreadable: message, text })
            }
          />
          {tied && (
            <p className="pt-0.5 text-xs text-warn">
              △ {tied.name} has {precedence} already; at a tie the object GUID decides.
            </p>
          )}
          {!model && (
            <div className="grid grid-cols-[72px_minmax(0,1fr)] items-center gap-2 py-[3px]">
              <label htmlFor="start">Start from</label>
              <Select
                id="start"
                value={start}
                onChange={(event) => set({ start: event.target.value as Typed["start"] })}
              >
                {points.data?.map((p) => (
                  <option key={p.key} value={p.key}>
                    {p.label}
                  </option>
                ))}
              </Select>
            </div>
          )}
          {model && (
            <label className="flex h-7 items-center gap-2">
              <input
                type="checkbox"
                checked={withLinks}
                onChange={(event) => set({ withLinks: event.target.checked })}
              />
              Link it to the same {model.name} links
            </label>
          )}
        </div>
        {settings && catalogue.data && (
          <dl className="grid grid-cols-[minmax(0,1fr)_auto] gap-x-2">
            {catalogue.data.map((setting) => (
              <div key={setting.key} className="contents">
                <dt className="border-t border-line/60 pt-0.5">{setting.label}</dt>
                <dd className="border-t border-line/60 pt-0.5 text-right font-mono">
                  {valueWithUnit(setting, settings[setting.key])}
                </dd>
                {!model && point?.reasons[setting.key] && (
                  <dd className="col-span-2 text-xs text-soft">{point.reasons[setting.key]}</dd>
                )}
              </div>
            ))}
          </dl>
        )}
        <Refusal error={form.refusal} />
        <div className="flex gap-2 pb-3">
          <Button tone="main" type="submit" disabled={create.isPending}>
            Create
          </Button>
          <Button
            onClick={() => {
              form.reset();
              onClose();
            }}
          >
            Cancel
          </Button>
        </div>
      </div>
    </Form>
  );
}
