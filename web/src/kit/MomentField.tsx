import { useId, useState } from "react";
import { fieldText, parseMoment, zoneText } from "../shared/moments";
import { TextInput } from "./inputs";

interface Props {
  label: string;
  /** An ISO moment, or "" for none. */
  value: string;
  onChange: (iso: string) => void;
  dayOnly?: boolean;
  /** What an empty field means. */
  empty?: string;
  className?: string;
}

/** A day, or a moment with its zone beside it, typed as it is read everywhere else. */
export function MomentField({
  label,
  value,
  onChange,
  dayOnly = false,
  empty = "",
  className = "",
}: Props) {
  const id = useId();
  const [text, setText] = useState<string | null>(null);
  const shown = text ?? (value ? fieldText(new Date(value), dayOnly) : "");
  const wrong = shown.trim() !== "" && parseMoment(shown) === undefined;
  return (
    <div className={`min-w-0 ${className}`}>
      <span className="flex items-center gap-1.5">
        <TextInput
          aria-label={label}
          aria-invalid={wrong}
          aria-describedby={`${id}-about`}
          value={shown}
          placeholder={dayOnly ? "2 Mar 2026" : "2 Mar 2026, 09:30"}
          autoComplete="off"
          className="flex-1"
          onChange={(event) => {
            const typed = event.target.value;
            setText(typed);
            const at = parseMoment(typed);
            if (at) onChange(at.toISOString());
            else if (typed.trim() === "") onChange("");
          }}
          onBlur={() => !wrong && setText(null)}
        />
        {!dayOnly && (
          <span className="shrink-0 text-xs text-soft">
            {zoneText(value ? new Date(value) : new Date())}
          </span>
        )}
      </span>
      <span id={`${id}-about`} className={`block text-xs ${wrong ? "text-fail" : "text-soft"}`}>
        {wrong
          ? `✕ Type it as “${dayOnly ? "2 Mar 2026" : "2 Mar 2026, 09:30"}” or “2026-03-02${dayOnly ? "" : " 09:30"}”.`
          : value === "" && empty}
      </span>
    </div>
  );
}
