// Refusals of the server: of one field, or of the whole form.
import { ApiError } from "../../api/client";
import { conflictOf } from "../../api/writing";

/** Problems by the name of the field. */
export type Problems = Record<string, string>;

export interface Refusals {
  /** The message about each field, by the last name in the path of the field. */
  byField: Problems;
  /** The message about the first field whose path holds one of the names. */
  of: (...names: string[]) => string | undefined;
  /** The refusal of the whole form, or of fields that the form does not show. */
  whole: Error | null;
}

const isNumber = (part: string) => /^\d+$/.test(part);
const nameIn = (parts: string[]) => parts.findLast((part) => !isNumber(part)) ?? "";

/** Name the field in front of the message: the message does not stand beside the field. */
function named(parts: string[], message: string): string {
  const words = nameIn(parts).replaceAll("_", " ");
  return words ? `${words.charAt(0).toUpperCase()}${words.slice(1)}: ${message}` : message;
}

/**
 * Read the answer to a write. `shows` has the names of the fields beside which the form shows a
 * refusal. A conflict is no refusal: the form shows both sides of a conflict.
 */
export function refusalsOf(error: Error | null, shows: readonly string[]): Refusals {
  const refused = error && !conflictOf(error) ? error : null;
  const fields = refused instanceof ApiError ? refused.fields : [];
  const paths = fields.map(({ field, message }) => ({ parts: field.split("."), message }));
  const elsewhere = paths.filter(({ parts }) => !parts.some((part) => shows.includes(part)));
  return {
    byField: Object.fromEntries(paths.map(({ parts, message }) => [nameIn(parts), message])),
    of: (...names) =>
      paths.find(({ parts }) => parts.some((part) => names.includes(part)))?.message,
    whole:
      fields.length === 0
        ? refused
        : elsewhere.length > 0
          ? new Error(elsewhere.map(({ parts, message }) => named(parts, message)).join(" "))
          : null,
  };
}
