import type { Schemas } from "../api/client";
import type { Value } from "./edits";
import { CountField, SpanField, SwitchField, type Shared } from "./fields";

type Setting = Pick<
  Schemas["SettingInfo"],
  "key" | "label" | "kind" | "unit" | "low" | "high" | "endless"
>;

interface Props extends Omit<Shared, "id" | "label"> {
  id: string;
  setting: Setting;
  value: Value;
  /** Text typed before that could not be read. */
  typed?: string;
  /** A value, or none, what is wrong with the text, and the text. */
  onChange: (value: Value | undefined, message?: string, text?: string) => void;
}

/** One setting, by the kind of its value. */
export function SettingField({ setting, value, typed, onChange, ...rest }: Props) {
  const shared = { ...rest, label: setting.label };
  if (setting.kind === "switch")
    return <SwitchField {...shared} value={value === true} onChange={onChange} />;
  if (setting.kind === "count")
    return (
      <CountField
        {...shared}
        unit={setting.unit}
        value={value as number}
        low={setting.low}
        high={setting.high}
        typed={typed}
        onChange={onChange}
      />
    );
  return (
    <SpanField
      {...shared}
      unit={setting.unit === "days" ? "days" : "minutes"}
      endless={setting.endless}
      value={value as number | null}
      typed={typed}
      onChange={onChange}
    />
  );
}
