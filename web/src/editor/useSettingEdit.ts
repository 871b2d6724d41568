import { useEffect, useRef } from "react";
import type { Schemas } from "../api/client";
import { useAdjustments, type SettingKey } from "../api/policies";
import { withField, type Edits, type Stored, type Value } from "./edits";

/** Settings that hang together with others. */
const TIED = new Set<SettingKey>([
  "min_age",
  "max_age",
  "lockout_threshold",
  "lockout_window",
  "lockout_duration",
]);

/** Edits one setting, and the settings that have to change along. */
export function useSettingEdit(stored: Stored, edits: Edits, onEdit: (edits: Edits) => void) {
  const adjustments = useAdjustments();
  const latest = useRef(edits);
  useEffect(() => {
    latest.current = edits;
  });
  return (key: SettingKey, next: Value | undefined, message = "", text = "") => {
    const edited = withField(
      {
        ...edits,
        settings: next === undefined ? edits.settings : { ...edits.settings, [key]: next },
        notes: { ...edits.notes, [key]: "" },
      },
      key,
      message,
      text,
    );
    onEdit(edited);
    if (next === undefined || message || !TIED.has(key)) return;
    void adjustments
      .mutateAsync({
        settings: { ...stored.settings, ...edited.settings } as Schemas["SettingsEdit"],
        changed: key,
      })
      .then((found) => {
        // Only if nobody typed on meanwhile.
        if (found.length === 0 || latest.current.settings[key] !== next) return;
        onEdit({
          ...latest.current,
          settings: {
            ...latest.current.settings,
            ...Object.fromEntries(found.map((c) => [c.key, c.value])),
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
}
