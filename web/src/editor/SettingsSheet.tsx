import type { Schemas } from "../api/client";
import {
  useStartingPoints,
  type PolicySetting,
  type SettingKey,
  type Settings,
} from "../api/policies";
import { useAsked, useBaselines } from "../api/baselines";
import { AgeBar } from "./AgeBar";
import { Asked } from "./Asked";
import { CountField, NameField } from "./fields";
import { LockoutBar } from "./LockoutBar";
import { useSettingEdit } from "./useSettingEdit";
import { valueText, withField, type Edits, type Stored, type Value } from "./edits";
import { SettingField } from "./SettingField";
import { PartHead } from "../kit/PartHead";
import { useUrlState } from "../shared/useUrlState";

interface Props {
  domain: string;
  /** The policy's GUID, or "domain". */
  policy: string;
  stored: Stored;
  /** What stands beside each value, to compare with; nothing where it is that itself. */
  bedrock?: Settings;
  /** How it is live, where the draft that is shown says something else. */
  live?: Stored | null;
  /** What the values come to, as stored or as they are typed. */
  told: Told;
  catalogue: PolicySetting[];
  edits: Edits;
  errors: Record<string, string>;
  onEdit: (edits: Edits) => void;
}

/** What settings come to. Not everything is told of the domain policy. */
export interface Told {
  problems: Schemas["ProblemInfo"][];
  course: Schemas["CourseInfo"];
  guess_budget?: string;
  reuse?: string;
}

const BEDROCK = "bedrock";

const SECTIONS = [
  { key: "composition", label: "Composition" },
  { key: "age", label: "Age" },
  { key: "lockout", label: "Lockout" },
] as const;

/**
 * Every setting with its meaning, its value and what bedrock says; problems stand under the setting
 * they belong to.
 */
export function SettingsSheet({
  domain,
  policy,
  stored,
  bedrock,
  live,
  told,
  catalogue,
  edits,
  errors,
  onEdit,
}: Props) {
  const points = useStartingPoints();
  const baselines = useBaselines();
  // In the address, so that it is still chosen when another state or policy is shown.
  const [given, choose] = useUrlState("against");
  const chosen = given || BEDROCK;
  const point = points.data?.find((p) => p.key === chosen);
  const baseline = baselines.data?.baselines.find((one) => `baseline ${one.name}` === chosen);
  const asked = useAsked(domain, baseline?.name ?? "", policy).data?.asked;
  const compared = bedrock && (point ? point.settings : bedrock);
  const against = baseline?.title ?? point?.label ?? (bedrock ? "bedrock" : "");
  const value = (key: SettingKey): Value =>
    key in edits.settings ? (edits.settings[key] ?? null) : stored.settings[key];
  const set = useSettingEdit(stored, edits, onEdit);

  return (
    <>
      {stored.name !== undefined && stored.precedence !== undefined && (
        <section aria-label="Name and precedence">
          <NameField
            value={edits.name ?? stored.name}
            error={errors.name}
            onChange={(name) => onEdit({ ...edits, name })}
          />
          <CountField
            id="precedence"
            label="Precedence"
            unit=""
            hint="Of the policies that reach an account through groups, the lowest number wins."
            value={edits.precedence ?? stored.precedence}
            low={1}
            beside=""
            error={errors.precedence}
            live={
              live && live.precedence !== stored.precedence ? String(live.precedence) : undefined
            }
            typed={edits.typed?.precedence}
            onChange={(precedence, message, text) =>
              onEdit(
                withField(
                  { ...edits, precedence: precedence ?? edits.precedence },
                  "precedence",
                  message,
                  text,
                ),
              )
            }
          />
        </section>
      )}
      {SECTIONS.map((section) => (
        <section key={section.key} aria-label={section.label}>
          <PartHead
            beside={
              section.key === "composition" ? (
                <CompareWith
                  against={given || BEDROCK}
                  hasBedrock={bedrock !== undefined}
                  onChoose={choose}
                />
              ) : (
                <span className="max-w-40 truncate text-xs text-soft" title={against}>
                  {against}
                </span>
              )
            }
          >
            {section.label}
          </PartHead>
          {catalogue
            .filter((s) => s.section === section.key)
            .map((setting) => {
              const now = value(setting.key);
              const beside = compared?.[setting.key];
              const reason = point?.reasons[setting.key];
              const was = live?.settings[setting.key];
              const here = asked?.filter((one) => setting.key in one.limits);
              const limit = here?.[0]?.limits[setting.key];
              return (
                <SettingField
                  key={setting.key}
                  id={setting.key}
                  setting={setting}
                  hint={`${setting.explanation} Takes effect ${setting.takes_effect}.${reason ? ` ${point?.label}: ${reason}` : ""}`}
                  asked={here && <Asked of={here} />}
                  beside={
                    baseline
                      ? (limit ?? "")
                      : beside === undefined
                        ? undefined
                        : now === beside
                          ? "same"
                          : valueText(setting, beside)
                  }
                  live={
                    was === undefined || was === stored.settings[setting.key]
                      ? undefined
                      : valueText(setting, was)
                  }
                  note={edits.notes?.[setting.key]}
                  error={errors[setting.key]}
                  warnings={told.problems
                    .filter((p) => p.field === setting.key)
                    .map((p) => p.message)}
                  value={now}
                  typed={edits.typed?.[setting.key]}
                  onChange={(v, m, t) => set(setting.key, v, m, t)}
                />
              );
            })}
          {section.key === "age" && (
            <>
              <AgeBar course={told.course} bedrock={bedrock?.max_age ?? null} />
              <p className="min-h-4 text-xs text-soft">{told.reuse}</p>
            </>
          )}
          {section.key === "lockout" && (
            <>
              <LockoutBar course={told.course} />
              <p className="min-h-4 text-xs text-soft">{told.guess_budget}</p>
            </>
          )}
        </section>
      ))}
    </>
  );
}

interface CompareProps {
  against: string;
  hasBedrock: boolean;
  onChoose: (against: string) => void;
}

/** The values to compare with: the domain policy, a starting point or a baseline. */
function CompareWith({ against, hasBedrock, onChoose }: CompareProps) {
  const points = useStartingPoints();
  const baselines = useBaselines();
  return (
    <select
      aria-label="Compare with"
      className="max-w-40 bg-transparent text-right text-xs text-soft"
      value={against}
      onChange={(event) => onChoose(event.target.value === BEDROCK ? "" : event.target.value)}
    >
      <option value={BEDROCK}>{hasBedrock ? "bedrock" : "nothing"}</option>
      {hasBedrock &&
        points.data?.map((p) => (
          <option key={p.key} value={p.key}>
            {p.label}
          </option>
        ))}
      {baselines.data?.baselines.map((one) => (
        <option key={one.name} value={`baseline ${one.name}`}>
          {one.title}
        </option>
      ))}
    </select>
  );
}
