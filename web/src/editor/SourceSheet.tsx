import { useState } from "react";
import { ApiError, type Schemas } from "../api/client";
import { useCatalogue } from "../api/policies";
import { useEditSource, useEditSourceLink, useExtendedSettings } from "../api/sources";
import { Button, Failed, Loading, Notice, Tick } from "../shared/controls";
import { settleKept, useKept } from "../shared/kept";
import { CountField, SpanField, SwitchField } from "./fields";
import type { Value } from "./edits";
import { at } from "../draft/place";

type Source = Schemas["GpoSource"];

interface Row {
  key: string;
  label: string;
  kind: "count" | "switch" | "span";
  unit: string;
  explanation: string;
  endless: string | null;
  start: Value;
}

interface Props {
  domain: string;
  source: Source;
  /** The domain policy as it is: what a setting begins with when it is set here. */
  bedrock: Record<string, unknown>;
  /** How many links the domain root has. */
  count: number;
  onBack: () => void;
}

/**
 * What is typed and not saved: values, settings not set any more, and text that could not be read.
 */
interface Typed {
  edits: Record<string, Value>;
  dropped: string[];
  unreadable: Record<string, string>;
  texts: Record<string, string>;
}

const UNTYPED: Typed = { edits: {}, dropped: [], unreadable: {}, texts: {} };

const untyped = ({ edits, dropped, unreadable }: Typed) =>
  Object.keys(edits).length === 0 &&
  dropped.length === 0 &&
  !Object.values(unreadable).some(Boolean);

/**
 * One group policy object as a source of the domain policy: its link, and what its template says,
 * setting by setting.
 */
export function SourceSheet({ domain, source, bedrock, count, onBack }: Props) {
  const catalogue = useCatalogue();
  const extended = useExtendedSettings();
  const save = useEditSource(domain);
  const address = new URLSearchParams({ policy: "domain", source: source.gpo });
  const work = {
    place: domain,
    about: `source ${source.gpo}`,
    label: `Source ${source.name}`,
    to: `/${at(domain)}/strata?${address}`,
  };
  const [typed, setTyped, forget] = useKept<Typed>(work, UNTYPED, untyped);
  const { edits, dropped, unreadable, texts } = typed;
  const [round, setRound] = useState(0);
  if (catalogue.error || extended.error)
    return <Failed error={catalogue.error ?? extended.error} />;
  if (!catalogue.data || !extended.data) return <Loading what="the settings" />;

  const rows: Row[] = [
    ...catalogue.data.map((s) => ({
      ...s,
      explanation: `${s.explanation} Takes effect ${s.takes_effect}.`,
      start: bedrock[s.key] as Value,
    })),
    ...extended.data.map((s) => ({ ...s, endless: null, start: s.default as Value })),
  ];
  const says = source.says ?? {};
  const isSet = (key: string) => !dropped.includes(key) && (key in edits || key in says);
  const value = (key: string) => (key in edits ? edits[key] : says[key]) as Value;
  const refused = save.error instanceof ApiError ? save.error : null;
  const errors: Record<string, string> = Object.fromEntries(
    (refused?.fields ?? []).map((f) => [f.field, f.message]),
  );
  for (const [key, message] of Object.entries(unreadable)) if (message) errors[key] = message;
  const changed = Object.fromEntries(
    Object.entries(edits).filter(
      ([key, v]) => !dropped.includes(key) && (!(key in says) || says[key] !== v),
    ),
  );
  const unset = dropped.filter((key) => key in says);
  const dirty = Object.keys(changed).length > 0 || unset.length > 0;
  const blocked = Object.values(unreadable).some(Boolean);

  const set = (key: string, next: Value | undefined, message = "", text = "") => {
    save.reset();
    setTyped({
      ...typed,
      edits: next === undefined ? edits : { ...edits, [key]: next },
      unreadable: { ...unreadable, [key]: message },
      texts: { ...texts, [key]: text },
    });
  };
  const toggle = (row: Row) => {
    save.reset();
    const on = isSet(row.key);
    setTyped({
      edits: on || row.key in says ? edits : { ...edits, [row.key]: row.start },
      dropped: on ? [...dropped, row.key] : dropped.filter((k) => k !== row.key),
      unreadable: { ...unreadable, [row.key]: "" },
      texts: { ...texts, [row.key]: "" },
    });
  };
  const reset = () => {
    forget();
    setRound((n) => n + 1);
    save.reset();
  };

  return (
    <form
      noValidate
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (!dirty || blocked) return;
        void save.mutateAsync({ gpo: source.gpo, settings: changed, unset }).then(
          ({ place }) => settleKept(work, typed, place) && reset(),
          () => undefined,
        );
      }}
    >
      <div className="flex items-center justify-between gap-2">
        <h3 className="truncate text-sm">{source.name}</h3>
        <Button onClick={onBack}>All sources</Button>
      </div>
      {source.at_root && <LinkControls domain={domain} source={source} count={count} />}
      <p className="text-xs text-soft">
        {source.at_root
          ? "What its template says. A setting that is not set here is left to the next source; that differs from 0."
          : "Linked below the root: this governs only the local accounts of computers there, never a domain account."}
      </p>
      <div key={round}>
        {rows.map((row) => {
          const shared = {
            id: `source-${row.key}`,
            label: row.label,
            hint: row.explanation,
            error: errors[row.key],
          };
          return (
            <div key={row.key} className="grid grid-cols-[22px_minmax(0,1fr)] items-start">
              <input
                type="checkbox"
                className="mt-2.5"
                checked={isSet(row.key)}
                aria-label={`${row.label} is set here`}
                onChange={() => toggle(row)}
              />
              {!isSet(row.key) ? (
                <p className="flex h-8 items-center justify-between border-b border-line/60 text-soft">
                  <span>{row.label}</span>
                  <span className="text-xs">not set here</span>
                </p>
              ) : row.kind === "switch" ? (
                <SwitchField
                  {...shared}
                  value={value(row.key) === true}
                  onChange={(v) => set(row.key, v)}
                />
              ) : row.kind === "count" ? (
                <CountField
                  {...shared}
                  unit={row.unit}
                  value={value(row.key) as number}
                  low={0}
                  typed={texts[row.key]}
                  onChange={(v, m, t) => set(row.key, v, m, t)}
                />
              ) : (
                <SpanField
                  {...shared}
                  unit={row.unit === "days" ? "days" : "minutes"}
                  endless={row.endless}
                  value={value(row.key) as number | null}
                  typed={texts[row.key]}
                  onChange={(v, m, t) => set(row.key, v, m, t)}
                />
              )}
            </div>
          );
        })}
      </div>
      {refused && (
        <Notice tone="fail" role="alert">
          {refused.message}
        </Notice>
      )}
      {(dirty || blocked) && (
        <div className="flex gap-2">
          <Button tone="main" type="submit" disabled={save.isPending || blocked}>
            Save to draft
          </Button>
          <Button onClick={reset}>Discard</Button>
        </div>
      )}
    </form>
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
          className="h-6"
          disabled={source.order <= 1 || edit.isPending}
          onClick={() => move(source.order - 2)}
        >
          Earlier
        </Button>
        <Button
          className="h-6"
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
      {edit.error && (
        <Notice tone="fail" role="alert">
          {edit.error.message}
        </Notice>
      )}
    </div>
  );
}
