// Spans of time as people read and type them. Values are seconds; null is "never" or "until
// unlocked".
const UNITS = [
  { name: "d", size: 86_400, words: ["d", "day", "days"] },
  { name: "h", size: 3_600, words: ["h", "hr", "hour", "hours"] },
  { name: "min", size: 60, words: ["m", "min", "mins", "minute", "minutes"] },
  { name: "s", size: 1, words: ["s", "sec", "second", "seconds"] },
] as const;

export function spanText(seconds: number | null, endless = "never"): string {
  if (seconds === null) return endless;
  if (seconds === 0) return "0";
  let rest = Math.abs(seconds);
  const parts: string[] = [];
  for (const unit of UNITS) {
    const count = unit.size === 1 ? rest : Math.floor(rest / unit.size);
    if (count > 0) parts.push(`${count.toLocaleString("en")} ${unit.name}`);
    rest -= count * unit.size;
  }
  return (seconds < 0 ? "−" : "") + parts.join(" ");
}

/**
 * Seconds for what people type: "45d", "30 min", "1 h 30 min"; a bare number takes the given unit.
 * Undefined if it is none.
 */
export function parseSpan(text: string, bareUnit: "days" | "minutes"): number | undefined {
  const plain = text.trim().toLowerCase().replaceAll(",", "");
  if (/^\d+(\.\d+)?$/.test(plain))
    return Math.round(Number(plain) * (bareUnit === "days" ? 86_400 : 60));
  const parts = [...plain.matchAll(/(\d+(?:\.\d+)?)\s*([a-z]+)\s*/g)];
  if (parts.length === 0 || parts.map((p) => p[0]).join("") !== plain) return undefined;
  let seconds = 0;
  for (const [, count, word] of parts) {
    const unit = UNITS.find((u) => (u.words as readonly string[]).includes(word ?? ""));
    if (!unit) return undefined;
    seconds += Number(count) * unit.size;
  }
  return Math.round(seconds);
}

/** How far a moment lies from now: "4 min ago", "in 12 d". */
export function awayText(iso: string, now = Date.now()): string {
  const seconds = (new Date(iso).getTime() - now) / 1000;
  const size = Math.abs(seconds);
  const unit = UNITS.find((u) => size >= u.size && u.size > 1);
  if (!unit) return "just now";
  const text = `${Math.floor(size / unit.size).toLocaleString("en")} ${unit.name}`;
  return seconds < 0 ? `${text} ago` : `in ${text}`;
}

export const plural = (count: number, noun: string) =>
  `${count.toLocaleString("en")} ${noun}${count === 1 ? "" : "s"}`;
