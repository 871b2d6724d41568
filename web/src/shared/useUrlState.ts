import { useCallback } from "react";
import { useSearchParams } from "react-router";

/** What is typed or drawn step by step; all else is a choice, and Back undoes it. */
const TYPED = new Set(["q", "layers", "zoom", "days", "calls", "weeks", "least"]);

/**
 * What the page's address says, and a way to change it. A change starts from the address as it is by
 * then, not as it was last drawn: two changes one right after the other both count.
 */
export function useAddress(): [
  URLSearchParams,
  (changes: Record<string, string>, replace?: boolean) => void,
] {
  const [params, setParams] = useSearchParams();
  const change = useCallback(
    (changes: Record<string, string>, replace = false) => {
      const next = new URLSearchParams(window.location.search);
      for (const [key, value] of Object.entries(changes)) {
        if (value) next.set(key, value);
        else next.delete(key);
      }
      setParams(next, { replace });
    },
    [setParams],
  );
  return [params, change];
}

/**
 * One value of the page's address, so that every state can be linked to. An empty value leaves the
 * address clean. What comes late says what is to become of the value as it is by then.
 */
export function useUrlState(
  key: string,
): [string, (value: string | ((now: string) => string), also?: Record<string, string>) => void] {
  const [params, change] = useAddress();
  const set = useCallback(
    (value: string | ((now: string) => string), also: Record<string, string> = {}) => {
      const now = new URLSearchParams(window.location.search).get(key) ?? "";
      change({ [key]: typeof value === "string" ? value : value(now), ...also }, TYPED.has(key));
    },
    [key, change],
  );
  return [params.get(key) ?? "", set];
}
