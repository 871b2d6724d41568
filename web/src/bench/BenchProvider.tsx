import { createContext, useCallback, useContext, useMemo, useState, type ReactNode } from "react";

/** A policy tried without an account: its GUID, or "domain" for the domain policy. */
export interface Nobody {
  guid: string;
  name: string;
}

/** An earlier password; 1 back is the present one. */
export interface Earlier {
  back: number;
  text: string;
}

/**
 * What a trial goes by besides the candidate. Moments in ISO form; empty ones are now, and as the
 * directory has it.
 */
export interface Circumstances {
  operation: "change" | "reset";
  now: string;
  passwordSet: string;
  earlier: Earlier[];
}

export const AS_IT_IS: Circumstances = {
  operation: "change",
  now: "",
  passwordSet: "",
  earlier: [],
};

/** The password that a change takes the place of, where it is one and that is given. */
export const presentOf = ({ operation, earlier }: Circumstances) =>
  (operation === "change" && earlier.find((one) => one.back === 1)?.text) || null;

export type Face = "candidate" | "drill" | "boundaries" | "trials" | "rehearsal";

interface BenchState {
  accounts: string[];
  policies: Nobody[];
  add: (names: string[], policy?: Nobody) => void;
  /** Lay these policies, in place of the ones that lie there. */
  layPolicies: (policies: Nobody[]) => void;
  remove: (key: string) => void;
  setCandidate: (candidate: string) => void;
  circumstances: Circumstances;
  setCircumstances: (circumstances: Circumstances) => void;
  shown: boolean;
  setShown: (shown: boolean) => void;
  face: Face;
  setFace: (face: Face) => void;
  open: boolean;
  setOpen: (open: boolean) => void;
}

const Context = createContext<BenchState | null>(null);
/** Apart from the rest, so that a keystroke draws only what shows the candidate. */
const CandidateContext = createContext("");

const MOST = 8;
/** Columns that the server judges at once. */
export const MOST_COLUMNS = 24;

interface Laid {
  accounts: string[];
  policies: Nobody[];
}

/**
 * What lies on the bench while one moves between screens. Candidates, present and earlier, live in
 * memory only: no address, no storage.
 */
export function BenchProvider({ domain, children }: { domain: string; children: ReactNode }) {
  const key = `bench:${domain}`;
  const [held, setHeld] = useState<{ key: string; laid: Laid }>(() => ({ key, laid: read(key) }));
  const laid = held.key === key ? held.laid : read(key);
  const [candidate, setCandidate] = useState("");
  const [circumstances, setCircumstances] = useState(AS_IT_IS);
  const [shown, setShown] = useState(true);
  const [face, setFace] = useState<Face>("candidate");
  const [open, setOpen] = useState(false);

  const keep = useCallback(
    (next: Laid) => {
      setHeld({ key, laid: next });
      sessionStorage.setItem(key, JSON.stringify(next));
    },
    [key],
  );
  const value = useMemo(
    () => ({
      ...laid,
      add: (names: string[], policy?: Nobody) => {
        const accounts = [...new Set([...laid.accounts, ...names])].slice(-MOST);
        const policies = policy
          ? [...laid.policies.filter((p) => p.guid !== policy.guid), policy].slice(-MOST)
          : laid.policies;
        keep({ accounts, policies });
        // Who drills goes on drilling.
        setFace((shown) => (shown === "drill" ? shown : "candidate"));
      },
      layPolicies: (policies: Nobody[]) => keep({ accounts: laid.accounts, policies }),
      remove: (gone: string) =>
        keep({
          accounts: laid.accounts.filter((n) => n !== gone),
          policies: laid.policies.filter((p) => p.guid !== gone),
        }),
      setCandidate,
      circumstances,
      setCircumstances,
      shown,
      setShown,
      face,
      setFace,
      open,
      setOpen,
    }),
    [laid, circumstances, shown, face, open, keep],
  );
  return (
    <Context.Provider value={value}>
      <CandidateContext.Provider value={candidate}>{children}</CandidateContext.Provider>
    </Context.Provider>
  );
}

function read(key: string): Laid {
  try {
    const stored = JSON.parse(sessionStorage.getItem(key) ?? "{}") as Partial<Laid>;
    return {
      accounts: Array.isArray(stored.accounts)
        ? stored.accounts.filter((n) => typeof n === "string")
        : [],
      policies: Array.isArray(stored.policies)
        ? stored.policies.filter((p) => typeof p.guid === "string" && typeof p.name === "string")
        : [],
    };
  } catch {
    return { accounts: [], policies: [] };
  }
}

/** The candidate as it stands in its field. */
export const useCandidate = () => useContext(CandidateContext);

export function useBench(): BenchState {
  const state = useContext(Context);
  if (!state) throw new Error("useBench needs a BenchProvider above it");
  return state;
}
