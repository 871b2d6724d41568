import { ApiError, type Schemas } from "../api/client";
import { useCatalogue, useCreatePolicy, useStartingPoints } from "../api/policies";
import { announce } from "../shared/announce";
import { focusAfterwards } from "../shared/focus";
import { Button, Refused } from "../shared/controls";
import { useKept } from "../shared/kept";
import { valueWithUnit } from "./edits";
import { CountField, NameField } from "./fields";
import { PanelHead } from "./PanelHead";
import { at } from "../draft/place";
import { Select } from "../shared/fields";

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
  const [form, setForm, forget] = useKept<Typed>(
    {
      place: domain,
      about: `new ${copyOf}`,
      label: model ? `Copy of ${model.name}` : "New policy",
      to: `/${at(domain)}/strata?policy=new${copyOf && `&copy=${copyOf}`}`,
    },
    {
      name: model ? `${model.name} copy` : "",
      precedence: Math.ceil((last + 1) / 10) * 10,
      start: "new-domain",
      withLinks: false,
      unreadable: "",
      text: "",
      touched: false,
    },
    untouched,
  );
  const { name, precedence, start, withLinks, unreadable } = form;
  const set = (typed: Partial<Typed>) => setForm({ ...form, ...typed, touched: true });
  const create = useCreatePolicy(domain);
  const refused = create.error instanceof ApiError ? create.error : null;
  const errors = Object.fromEntries((refused?.fields ?? []).map((f) => [f.field, f.message]));
  const tied = layers.find((layer) => layer.precedence === precedence);
  const point = points.data?.find((p) => p.key === start);
  const settings = model ? model.settings : point?.settings;
  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        if (unreadable || create.isPending) return;
        const focus = focusAfterwards();
        void create
          .mutateAsync({
            name: name.trim(),
            precedence,
            start,
            copy_of: model ? copyOf : null,
            same_links: withLinks,
            settings: {},
            links: [],
          })
          .then(({ result }) => {
            forget(form);
            onMade(result.guid);
            announce("Created in the draft.");
            focus.on("add-link");
          }, focus.onRefused);
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
            error={errors.name && name.trim() === "" ? "Give it a name." : errors.name}
            onChange={(typed) => set({ name: typed })}
          />
          <CountField
            id="precedence"
            label="Precedence"
            unit=""
            hint="Of the policies that reach an account through groups, the lowest number wins."
            value={precedence}
            low={1}
            error={unreadable || errors.precedence}
            typed={form.text}
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
        <Refused error={refused?.fields.length ? null : refused} />
        <div className="flex gap-2 pb-3">
          <Button tone="main" type="submit" disabled={create.isPending}>
            Create
          </Button>
          <Button
            onClick={() => {
              forget();
              onClose();
            }}
          >
            Cancel
          </Button>
        </div>
      </div>
    </form>
  );
}
