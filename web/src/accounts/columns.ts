// The columns of the table of accounts: which there are, which are shown, and how they are ordered
// by.
import { useSyncExternalStore } from "react";

export interface Column {
  key: string;
  title: string;
  /** What the server orders by, where it can. */
  order?: string;
  width: string;
  least: number;
}

export const COLUMNS: Column[] = [
  { key: "name", title: "Account", order: "name", width: "1.1fr", least: 120 },
  { key: "display_name", title: "Display name", order: "display_name", width: "1.2fr", least: 120 },
  { key: "policy", title: "Policy", order: "policy", width: "1.2fr", least: 130 },
  { key: "why", title: "Why", order: "why", width: "1.2fr", least: 130 },
  { key: "expires", title: "Password expires", order: "expires", width: "110px", least: 110 },
  { key: "set", title: "Password set", order: "set", width: "100px", least: 100 },
  { key: "bad_tries", title: "Bad tries", order: "bad_tries", width: "80px", least: 80 },
  { key: "state", title: "State", width: "1fr", least: 100 },
  { key: "container", title: "Lies in", order: "container", width: "1.2fr", least: 130 },
];

const USUAL = ["name", "display_name", "policy", "why", "expires", "state"];
const KEY = "account-columns";
const listeners = new Set<() => void>();

const stored = () => localStorage.getItem(KEY) ?? USUAL.join();

/**
 * The columns that the person has chosen, in their usual order; the account itself always stands.
 */
export function useColumns(): [Column[], (key: string, on: boolean) => void] {
  const chosen = useSyncExternalStore((listener) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  }, stored).split(",");
  const choose = (key: string, on: boolean) => {
    localStorage.setItem(
      KEY,
      COLUMNS.map((c) => c.key)
        .filter((k) => (k === key ? on : chosen.includes(k)))
        .join(),
    );
    for (const listener of listeners) listener();
  };
  return [COLUMNS.filter((column) => column.key === "name" || chosen.includes(column.key)), choose];
}
