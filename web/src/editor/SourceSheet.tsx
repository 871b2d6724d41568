import type { Schemas } from "../api/client";
import { useTemplateCatalogue, type SettingKey, type Settings } from "../api/policies";
import { useEditSource, useEditSourceLink } from "../api/sources";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { Tick } from "../kit/Tick";
import { isUnread, problemsOf, withField, type Unread, type Value } from "./edits";
import { SaveBar } from "../kit/SaveBar";
import { SettingField } from "./SettingField";
import { useForm } from "../kit/form/useForm";
import { Form } from "../kit/form/Form";
import { at } from "../draft/place";
import { MayChange } from "../shared/May";

type Source = Schemas["GpoSource"];

type Setting = Schemas["SettingInfo"];
type Key = Setting["key"];

interface Props {
  domain: string;
  source: Source;
  /** The domain policy as it is: what a setting begins with when it is set here. */
  bedrock: Settings;
  /** How many links the domain root has. */
  count: number;
  onBack: () => void;
}

/**
 * What is typed and not saved: values, settings not set any more, and text that could not be read.
 */
interface Typed extends Unread {
  edits: Partial<Record<Key, Value>>;
  dropped: Key[];
}

const UNTYPED: Typed = { edits: {}, dropped: [] };

const untyped = (form: Typed) =>
  Object.keys(form.edits).length === 0 && form.dropped.length === 0 && !isUnread(form);

/**
 * One group policy object as a source of the domain policy: its link, and what its template says,
 * setting by setting.
 */
export function SourceSheet({ domain, source, bedrock, count, onBack }: Props) {
  const catalogue = useTemplateCatalogue();
  const save = useEditSource(domain);
  const address = new URLSearchParams({ policy: "domain", source: source.gpo });
  const work = {
    place: domain,
    about: `source ${source.gpo}`,
    label: `Source ${source.name}`,
    to: `/${at(domain)}/strata?${address}`,
  };
  const form = useForm<Typed>({
    work,
    start: UNTYPED,
    isBlank: untyped,
    writes: [save],
    shows: catalogue.data?.map(({ key }) => key),
    check: problemsOf,
  });
  const { edits, dropped } = form.value;
  if (catalogue.error)
    return <Failure error={catalogue.error} retry={() => void catalogue.refetch()} />;
  if (catalogue.isPending) return <Loading what="the settings" />;

  const says: Partial<Record<string, Value>> = source.says ?? {};
  const isSet = (key: Key) => !dropped.includes(key) && (key in edits || key in says);
  const value = (key: Key): Value => (key in edits ? edits[key] : says[key]) ?? null;
  const changed = Object.fromEntries(
    Object.entries(edits).filter(
      ([key, v]) => !dropped.includes(key as Key) && (!(key in says) || says[key] !== v),
    ),
  ) as Schemas["SourceEdit"]["settings"];
  const unset = dropped.filter((key) => key in says);
  const dirty = Object.keys(changed ?? {}).length > 0 || unset.length > 0;

  const set = (key: Key, next: Value | undefined, message = "", text = "") => {
    const typed = next === undefined ? edits : { ...edits, [key]: next };
    form.set(withField({ ...form.value, edits: typed }, key, message, text));
  };
  const toggle = (setting: Setting) => {
    const { key } = setting;
    const on = isSet(key);
    // What a setting begins with when it is set here: what the domain policy has.
    const start = key in bedrock ? bedrock[key as SettingKey] : setting.default;
    const next = {
      ...form.value,
      edits: on || key in says ? edits : { ...edits, [key]: start },
      dropped: on ? [...dropped, key] : dropped.filter((k) => k !== key),
    };
    form.set(withField(next, key));
  };

  return (
    <Form
      of={form}
      className="space-y-3"
      onSubmit={() => {
        if (!dirty || form.blocked) return;
        form.send(
          () => save.mutateAsync({ gpo: source.gpo, settings: changed, unset }),
          ({ place }, sent) => void form.settled(place, sent),
        );
      }}
    >
      <div className="flex items-center justify-between gap-2">
        <h3 className="truncate text-sm">{source.name}</h3>
        <Button onClick={onBack}>All sources</Button>
      </div>
      <MayChange right="draft" at={domain}>
        {source.at_root && <LinkControls domain={domain} source={source} count={count} />}
        <p className="text-xs text-soft">
          {source.at_root
            ? "What its template says. A setting that is not set here is left to the next source; that differs from 0."
            : "Linked below the root: this governs only the local accounts of computers there, never a domain account."}
        </p>
        <div key={form.round}>
          {catalogue.data.map((setting) => (
            <div key={setting.key} className="grid grid-cols-[22px_minmax(0,1fr)] items-start">
              <input
                type="checkbox"
                className="mt-2.5"
                checked={isSet(setting.key)}
                aria-label={`${setting.label} is set here`}
                onChange={() => toggle(setting)}
              />
              {isSet(setting.key) ? (
                <SettingField
                  id={`source-${setting.key}`}
                  setting={setting}
                  hint={`${setting.explanation} Takes effect ${setting.takes_effect}.`}
                  error={form.errors[setting.key]}
                  value={value(setting.key)}
                  typed={form.value.typed?.[setting.key]}
                  onChange={(v, m, t) => set(setting.key, v, m, t)}
                />
              ) : (
                <p className="flex h-8 items-center justify-between border-b border-line/60 text-soft">
                  <span>{setting.label}</span>
                  <span className="text-xs">not set here</span>
                </p>
              )}
            </div>
          ))}
        </div>
        <Refusal error={form.refusal} />
        {(dirty || form.blocked) && (
          <SaveBar
            className="-mx-4"
            busy={save.isPending}
            blocked={form.blocked}
            onDiscard={form.reset}
          />
        )}
      </MayChange>
    </Form>
  );
}

function LinkControls({
  domain,
  source,
  count,
}: {
  domain: string;
  source: Source;
  count: number;
}) {
  const edit = useEditSourceLink(domain);
  const move = (place: number) => edit.mutate({ gpo: source.gpo, place });
  return (
    <div className="space-y-1">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <span>Link order {source.order}</span>
        <Button
          size="small"
          disabled={source.order <= 1 || edit.isPending}
          onClick={() => move(source.order - 2)}
        >
          Earlier
        </Button>
        <Button
          size="small"
          disabled={source.order >= count || edit.isPending}
          onClick={() => move(source.order)}
        >
          Later
        </Button>
        <Tick
          label="enforced"
          checked={source.enforced}
          onChange={(enforced) => edit.mutateAsync({ gpo: source.gpo, enforced })}
        />
        <Tick
          label="switched off"
          checked={source.link_off}
          onChange={(disabled) => edit.mutateAsync({ gpo: source.gpo, disabled })}
        />
      </div>
      <Refusal error={edit.error} />
    </div>
  );
}
