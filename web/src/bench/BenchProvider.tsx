import { createContext, useCallback, useContext, useMemo, useState, type ReactNode } from "react";

interface BenchState {
  accounts: string[];
  add: (names: string[]) => void;
  remove: (name: string) => void;
  candidate: string;
  setCandidate: (candidate: string) => void;
}

const Context = createContext<BenchState | null>(null);

const MOST = 8;

/** What lies on the bench while one moves between screens. The candidate lives in memory only: no address, no storage. */
export function BenchProvider({ domain, children }: { domain: string; children: ReactNode }) {
  const key = `bench:${domain}`;
  const [held, setHeld] = useState<{ key: string; accounts: string[] }>(() => ({ key, accounts: read(key) }));
  const accounts = held.key === key ? held.accounts : read(key);
  const [candidate, setCandidate] = useState("");

  const keep = useCallback(
    (next: string[]) => {
      setHeld({ key, accounts: next });
      sessionStorage.setItem(key, JSON.stringify(next));
    },
    [key],
  );
  const value = useMemo(
    () => ({
      accounts,
      add: (names: string[]) => keep([...new Set([...accounts, ...names])].slice(-MOST)),
      remove: (name: string) => keep(accounts.filter((n) => n !== name)),
      candidate,
      setCandidate,
    }),
    [accounts, candidate, keep],
  );
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

function read(key: string): string[] {
  try {
    const stored: unknown = JSON.parse(sessionStorage.getItem(key) ?? "[]");
    return Array.isArray(stored) ? stored.filter((n) => typeof n === "string") : [];
  } catch {
    return [];
  }
}

export function useBench(): BenchState {
  const state = useContext(Context);
  if (!state) throw new Error("useBench needs a BenchProvider above it");
  return state;
}
