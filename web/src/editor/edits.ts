// What has been edited but not saved: only the fields that were touched, so that everything else
// survives exactly.
import type { Schemas } from "../api/client";
import type { PolicySetting, SettingKey, Settings } from "../api/policies";
import { spanText } from "../shared/span";

export type Value = boolean | number | null;

/** Text of fields that could not be read, and what is wrong with it, by field. */
export interface Unread {
  unreadable?: Record<string, string>;
  typed?: Record<string, string>;
}

export interface Edits extends Unread {
  name?: string;
  precedence?: number;
  settings: Partial<Record<SettingKey, Value>>;
  /** Why a setting was changed along with another, by field. */
  notes?: Record<string, string>;
}

/** Edits, and the version of the policy that they were begun on. */
export interface Begun extends Edits {
  begunOn: number;
}

export const NO_EDITS: Edits = { settings: {} };

/** Whether the text of some field could not be read. */
export const isUnread = ({ unreadable }: Unread) => Object.values(unreadable ?? {}).some(Boolean);

/** The same with what became of one field: read, or not and why. */
export const withField = <T extends Unread>(form: T, key: string, message = "", text = ""): T => ({
  ...form,
  unreadable: { ...form.unreadable, [key]: message },
  typed: { ...form.typed, [key]: text },
});

/** What is wrong with text that could not be read, by field. */
export const problemsOf = ({ unreadable }: Unread) => unreadable ?? {};

/** Whether nothing is edited at all. */
export const unedited = (edits: Edits) =>
  edits.name === undefined &&
  edits.precedence === undefined &&
  Object.keys(edits.settings).length === 0 &&
  !isUnread(edits);

/** What a form edits: a policy, or the domain policy, which has neither name nor number. */
export interface Stored {
  name?: string;
  precedence?: number;
  settings: Settings;
}

/**
 * The body of the request for these edits, and how many fields really differ from what is stored.
 */
export function changesOf(stored: Stored, edits: Edits) {
  const settings = Object.fromEntries(
    Object.entries(edits.settings).filter(
      ([key, value]) => stored.settings[key as SettingKey] !== value,
    ),
  ) as Schemas["SettingsEdit"];
  const body: Omit<Schemas["PolicyEdit"], "version"> & { settings: Schemas["SettingsEdit"] } = {
    settings,
  };
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

type Shown = Pick<PolicySetting, "kind" | "unit" | "endless" | "zero">;

/** A setting's value as people read it. */
export function valueText(setting: Shown, value: Value | undefined): string {
  if (value === undefined) return "–";
  if (setting.kind === "switch") return value ? "on" : "off";
  if (setting.kind === "span") return spanText(value as number | null, setting.endless ?? "never");
  return String(value);
}

/** The same with its unit, where it stands alone. */
export function valueWithUnit(setting: Shown, value: Value | undefined): string {
  if (setting.zero && value === 0) return setting.zero;
  if (setting.kind !== "count" || value === undefined) return valueText(setting, value);
  return `${valueText(setting, value)} ${value === 1 ? setting.unit.replace(/s$/, "").replace(/trie$/, "try") : setting.unit}`;
}

/** The edits as sentences, before → after. */
export function sentences(stored: Stored, edits: Edits, catalogue: PolicySetting[]): string[] {
  const { body } = changesOf(stored, edits);
  const lines: string[] = [];
  if (body.name) lines.push(`Name: ${stored.name} → ${body.name}`);
  if (body.precedence !== undefined && body.precedence !== null)
    lines.push(`Precedence: ${stored.precedence} → ${body.precedence}`);
  for (const setting of catalogue) {
    if (setting.key in body.settings) {
      const before = valueText(setting, stored.settings[setting.key]);
      const after = valueText(setting, body.settings[setting.key]);
      lines.push(`${setting.label}: ${before} → ${after}, ${setting.takes_effect}`);
    }
  }
  return lines;
}
