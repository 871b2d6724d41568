import { useState } from "react";
import { ApiError } from "../api/client";
import { conflictOf } from "../api/writing";
import { settleKept, useKept, type Work } from "../shared/kept";
import { isUnread, type Unread } from "./edits";

interface Saving {
  error: unknown;
  reset: () => void;
}

/**
 * A form whose typed work outlives leaving it, with what the server refused of it, field by field.
 */
export function useForm<T extends Unread>(
  work: Work,
  start: T,
  blank: (value: T) => boolean,
  save: Saving,
) {
  const [value, set, forget] = useKept<T>(work, start, blank);
  // Counts up when edits are given up or saved, so that half-typed text in a field goes too.
  const [round, setRound] = useState(0);
  const refused = save.error instanceof ApiError && !conflictOf(save.error) ? save.error : null;
  const errors: Record<string, string> = Object.fromEntries(
    (refused?.fields ?? []).map((f) => [f.field.replace(/^settings\./, ""), f.message]),
  );
  for (const [key, message] of Object.entries(value.unreadable ?? {}))
    if (message) errors[key] = message;
  const reset = () => {
    forget();
    setRound((n) => n + 1);
    save.reset();
  };
  return {
    value,
    set,
    reset,
    /** Stands for the fields as they are: other fields for another number. */
    round,
    errors,
    unread: isUnread(value),
    /** What was refused as a whole, not of one field. */
    refused: refused?.fields.length ? null : refused,
    /** It was saved in this place as it was sent: true if nothing was typed meanwhile. */
    settled: (place: string) => {
      const settled = settleKept(work, value, place);
      if (settled) reset();
      return settled;
    },
  };
}
