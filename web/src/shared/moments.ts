// Days and moments, in one form everywhere, read and typed: "2 Mar 2026", "2 Mar 2026, 09:30
// UTC+1". Times are in the reader's zone and say so.
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

const two = (n: number) => String(n).padStart(2, "0");

/** The reader's zone at a moment: "UTC", "UTC+1", "UTC−3:30". */
export function zoneText(at: Date): string {
  const minutes = -at.getTimezoneOffset();
  if (minutes === 0) return "UTC";
  const size = Math.abs(minutes);
  return `UTC${minutes < 0 ? "−" : "+"}${Math.floor(size / 60)}${size % 60 ? `:${two(size % 60)}` : ""}`;
}

const day = (at: Date) => `${at.getDate()} ${MONTHS[at.getMonth()]} ${at.getFullYear()}`;

const clock = (at: Date) => `${two(at.getHours())}:${two(at.getMinutes())}`;

/** A moment of the server's as people read it. */
export function momentText(iso: string | null): string {
  if (iso === null) return "–";
  const at = new Date(iso);
  return `${day(at)}, ${clock(at)} ${zoneText(at)}`;
}

/** The day that a moment lies on here, as the server takes it. */
export const localDay = (iso: string) => new Date(iso).toLocaleDateString("sv");

export const dayText = (iso: string) => day(new Date(iso));

/** A day with its name, for a letter. */
export const letterDay = (iso: string) =>
  `${new Date(iso).toLocaleDateString("en", { weekday: "long" })}, ${dayText(iso)}`;

/**
 * A moment as it stands in a field: like `momentText`, to the second where there are seconds,
 * without the zone beside the field.
 */
export function fieldText(at: Date, dayOnly = false): string {
  return dayOnly
    ? day(at)
    : `${day(at)}, ${clock(at)}${at.getSeconds() ? `:${two(at.getSeconds())}` : ""}`;
}

const NUMBERS = /^(\d{4})-(\d{1,2})-(\d{1,2})(?:[ T,]+(\d{1,2}):(\d{2})(?::(\d{2}))?)?$/;
const WORDS = /^(\d{1,2})\.? ([a-z]{3,9})\.?,? (\d{4})(?:[ ,]+(\d{1,2}):(\d{2})(?::(\d{2}))?)?$/i;

/**
 * The moment that people type, in their own zone: "2 Mar 2026, 09:30" or "2026-03-02 09:30";
 * without a time the day begins. Undefined if it is none.
 */
export function parseMoment(text: string): Date | undefined {
  const typed = text.trim().replace(/\s+/g, " ");
  const numbers = NUMBERS.exec(typed);
  const words = WORDS.exec(typed);
  const parts = numbers ?? words;
  if (!parts) return undefined;
  const year = Number(numbers ? numbers[1] : words?.[3]);
  const month = numbers
    ? Number(numbers[2]) - 1
    : MONTHS.findIndex((m) => words?.[2]?.toLowerCase().startsWith(m.toLowerCase()));
  const date = Number(numbers ? numbers[3] : words?.[1]);
  const [hour, minute, second] = [4, 5, 6].map((n) => Number(parts[n] ?? 0)) as [
    number,
    number,
    number,
  ];
  const at = new Date(year, month, date, hour, minute, second);
  // What rolls over, such as 31 February, is no day.
  const same = at.getFullYear() === year && at.getMonth() === month && at.getDate() === date;
  return month >= 0 && same && hour < 24 && minute < 60 && second < 60 ? at : undefined;
}
