import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { askAdjustments, useStartingPoints } from "../api/policies";
import { AgeBar } from "./AgeBar";
import { CountField, NameField, SpanField, SwitchField } from "./fields";
import { LockoutBar } from "./LockoutBar";
import { valueText, type Edits, type Value } from "./edits";

interface Props {
  policy: Pick<Schemas["PolicyDetail"], "settings" | "problems"> &
    Partial<
      Pick<
        Schemas["PolicyDetail"],
        "name" | "precedence" | "bedrock" | "guess_budget" | "reuse" | "live"
      >
    >;
  /** What the values as they are typed come to; nothing while they are as stored. */
  weighed?: Schemas["EditWeighed"];
  catalogue: Schemas["SettingInfo"][];
  edits: Edits;
  errors: Record<string, string>;
  onEdit: (edits: Edits) => void;
}

/** Settings that hang together with others. */
const TIED = new Set([
  "min_age",
  "max_age",
  "lockout_threshold",
  "lockout_window",
  "lockout_duration",
]);

const SECTIONS = [
  { key: "composition", label: "Composition" },
  { key: "age", label: "Age" },
  { key: "lockout", label: "Lockout" },
] as const;

/**
 * Every setting with its meaning, its value and what bedrock says; problems stand under the setting
 * they belong to.
 */
export function SettingsSheet({ policy, weighed, catalogue, edits, errors, onEdit }: Props) {
  const points = useStartingPoints();
  const [chosen, choose] = useState("bedrock");
  const point = points.data?.find((p) => p.key === chosen);
  const compared = policy.bedrock && (point ? point.settings : policy.bedrock);
  const value = (key: string) =>
    (key in edits.settings ? edits.settings[key] : (policy.settings[key] as Value)) as Value;
  const current = Object.fromEntries(catalogue.map((s) => [s.key, value(s.key)]));
  // Advice goes by what is typed.
  const problems = weighed?.problems ?? policy.problems;
  const latest = useRef(edits);
  useEffect(() => {
    latest.current = edits;
  });
  const set = (key: string, next: Value | undefined, message = "", text = "") => {
    const edited = {
      ...edits,
      settings: next === undefined ? edits.settings : { ...edits.settings, [key]: next },
      notes: { ...edits.notes, [key]: "" },
      unreadable: { ...edits.unreadable, [key]: message },
      typed: { ...edits.typed, [key]: text },
    };
    onEdit(edited);
    if (next === undefined || message || !TIED.has(key)) return;
    void askAdjustments({
      settings: { ...policy.settings, ...edited.settings },
      changed: key,
    })
      .then((found) => {
        // Only if nobody typed on meanwhile.
        if (found.length === 0 || latest.current.settings[key] !== next) return;
        onEdit({
          ...latest.current,
          settings: {
            ...latest.current.settings,
            ...Object.fromEntries(found.map((c) => [c.key, c.value as Value])),
          },
          notes: {
            ...latest.current.notes,
            ...Object.fromEntries(found.map((c) => [c.key, `Changed along with it: ${c.reason}`])),
          },
        });
      })
      // A proposal is a courtesy; saving checks all of it anyway.
      .catch(() => undefined);
  };

  return (
    <>
      {policy.name !== undefined && policy.precedence !== undefined && (
        <section aria-label="Name and precedence">
          <NameField
            value={edits.name ?? policy.name}
            error={errors.name}
            onChange={(name) => onEdit({ ...edits, name })}
          />
          <CountField
            id="precedence"
            label="Precedence"
            unit=""
            hint="Of the policies that reach an account through groups, the lowest number wins."
            value={edits.precedence ?? policy.precedence}
            low={1}
            beside=""
            error={errors.precedence}
            live={
              policy.live && policy.live.precedence !== policy.precedence
                ? String(policy.live.precedence)
                : undefined
            }
            typed={edits.typed?.precedence}
            onChange={(precedence, message, text) =>
              onEdit({
                ...edits,
                precedence: precedence ?? edits.precedence,
                unreadable: { ...edits.unreadable, precedence: message },
                typed: { ...edits.typed, precedence: text },
              })
            }
          />
        </section>
      )}
      {SECTIONS.map((section) => (
        <section key={section.key} aria-label={section.label}>
          <div className="mb-0.5 flex justify-between border-b border-line pb-0.5">
            <h3 className="text-sm">{section.label}</h3>
            {policy.bedrock &&
              (section.key === "composition" ? (
                <select
                  aria-label="Compare with"
                  className="max-w-40 bg-transparent text-right text-xs text-soft"
                  value={chosen}
                  onChange={(event) => choose(event.target.value)}
                >
                  <option value="bedrock">bedrock</option>
                  {points.data?.map((p) => (
                    <option key={p.key} value={p.key}>
                      {p.label}
                    </option>
                  ))}
                </select>
              ) : (
                <span className="max-w-40 truncate text-xs text-soft">
                  {point ? point.label : "bedrock"}
                </span>
              ))}
          </div>
          {catalogue
            .filter((s) => s.section === section.key)
            .map((setting) => {
              const now = value(setting.key);
              const bedrock = compared?.[setting.key] as Value | undefined;
              const reason = point?.reasons[setting.key];
              const live = policy.live?.settings[setting.key] as Value | undefined;
              const shared = {
                id: setting.key,
                label: setting.label,
                hint: `${setting.explanation} Takes effect ${setting.takes_effect}.${reason ? ` ${point?.label}: ${reason}` : ""}`,
                beside:
                  bedrock === undefined
                    ? undefined
                    : now === bedrock
                      ? "same"
                      : valueText(setting, bedrock),
                live:
                  live === undefined || live === policy.settings[setting.key]
                    ? undefined
                    : valueText(setting, live),
                note: edits.notes?.[setting.key],
                error: errors[setting.key],
                warnings: problems.filter((p) => p.field === setting.key).map((p) => p.message),
              };
              if (setting.kind === "switch")
                return (
                  <SwitchField
                    key={setting.key}
                    {...shared}
                    value={now === true}
                    onChange={(v) => set(setting.key, v)}
                  />
                );
              if (setting.kind === "count")
                return (
                  <CountField
                    key={setting.key}
                    {...shared}
                    unit={setting.unit}
                    value={now as number}
                    low={setting.low}
                    high={setting.high}
                    typed={edits.typed?.[setting.key]}
                    onChange={(v, m, t) => set(setting.key, v, m, t)}
                  />
                );
              return (
                <SpanField
                  key={setting.key}
                  {...shared}
                  unit={setting.unit as "days" | "minutes"}
                  endless={setting.endless}
                  value={now as number | null}
                  typed={edits.typed?.[setting.key]}
                  onChange={(v, m, t) => set(setting.key, v, m, t)}
                />
              );
            })}
          {section.key === "age" && (
            <>
              <AgeBar
                settings={current}
                bedrock={(policy.bedrock?.max_age ?? null) as number | null}
              />
              <p className="min-h-4 text-xs text-soft">{weighed?.reuse ?? policy.reuse}</p>
            </>
          )}
          {section.key === "lockout" && (
            <>
              <LockoutBar settings={current} />
              <p className="min-h-4 text-xs text-soft">
                {weighed?.guess_budget ?? policy.guess_budget}
              </p>
            </>
          )}
        </section>
      ))}
    </>
  );
}
