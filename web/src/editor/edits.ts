// What has been edited but not saved: only the fields that were touched, so that everything else
// survives exactly.
import type { Schemas } from "../api/client";
import { spanText } from "../shared/span";

export type Value = boolean | number | null;

export interface Edits {
  name?: string;
  precedence?: number;
  settings: Record<string, Value>;
  /** Why a setting was changed along with another, by field. */
  notes?: Record<string, string>;
  /** What is wrong with text that could not be read, by field. */
  unreadable?: Record<string, string>;
  /** That text itself. */
  typed?: Record<string, string>;
}

export const NO_EDITS: Edits = { settings: {} };

/** Whether nothing is edited at all. */
export const unedited = (edits: Edits) =>
  edits.name === undefined &&
  edits.precedence === undefined &&
  Object.keys(edits.settings).length === 0 &&
  !Object.values(edits.unreadable ?? {}).some(Boolean);

type Detail = Schemas["PolicyDetail"];

/**
 * The body of the request for these edits, and how many fields really differ from what is stored.
 */
export function changesOf(stored: Pick<Detail, "name" | "precedence" | "settings">, edits: Edits) {
  const settings = Object.fromEntries(
    Object.entries(edits.settings).filter(([key, value]) => stored.settings[key] !== value),
  );
  const body: Omit<Schemas["PolicyEdit"], "version"> = { settings };
  if (edits.name !== undefined && edits.name !== stored.name) body.name = edits.name;
  if (edits.precedence !== undefined && edits.precedence !== stored.precedence)
    body.precedence = edits.precedence;
  const unreadable = Object.values(edits.unreadable ?? {}).filter(Boolean).length;
  const count =
    Object.keys(settings).length +
    (body.name !== undefined ? 1 : 0) +
    (body.precedence !== undefined ? 1 : 0) +
    unreadable;
  return { body, count };
}

/** A setting's value as people read it. */
export function valueText(setting: Schemas["SettingInfo"], value: Value | undefined): string {
  if (value === undefined) return "–";
  if (setting.kind === "switch") return value ? "on" : "off";
  if (setting.kind === "span") return spanText(value as number | null, setting.endless ?? "never");
  return String(value);
}

/** The same with its unit, where it stands alone. */
export function valueWithUnit(setting: Schemas["SettingInfo"], value: Value | undefined): string {
  if (setting.key === "lockout_threshold" && value === 0) return "never locks";
  if (setting.kind !== "count" || value === undefined) return valueText(setting, value);
  return `${valueText(setting, value)} ${value === 1 ? setting.unit.replace(/s$/, "").replace(/trie$/, "try") : setting.unit}`;
}

/** The edits as sentences, before → after. */
export function sentences(
  stored: Detail,
  edits: Edits,
  catalogue: Schemas["SettingInfo"][],
): string[] {
  const { body } = changesOf(stored, edits);
  const lines: string[] = [];
  if (body.name) lines.push(`Name: ${stored.name} → ${body.name}`);
  if (body.precedence !== undefined && body.precedence !== null)
    lines.push(`Precedence: ${stored.precedence} → ${body.precedence}`);
  const changed = (body.settings ?? {}) as Record<string, Value>;
  for (const setting of catalogue) {
    if (setting.key in changed) {
      const before = valueText(setting, stored.settings[setting.key] as Value);
      lines.push(
        `${setting.label}: ${before} → ${valueText(setting, changed[setting.key])}, ${setting.takes_effect}`,
      );
    }
  }
  return lines;
}
