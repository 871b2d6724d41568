import { useCallback } from "react";
import { useSearchParams } from "react-router";

/** What is typed or drawn step by step; all else is a choice, and Back undoes it. */
const TYPED = new Set(["q", "layers", "zoom"]);

/**
 * One value of the page's address, so that every state can be linked to. An empty value leaves the
 * address clean.
 */
export function useUrlState(
  key: string,
): [string, (value: string, also?: Record<string, string>) => void] {
  const [params, setParams] = useSearchParams();
  const set = useCallback(
    (value: string, also: Record<string, string> = {}) => {
      setParams(
        (before) => {
          const next = new URLSearchParams(before);
          for (const [k, v] of Object.entries({ [key]: value, ...also })) {
            if (v) next.set(k, v);
            else next.delete(k);
          }
          return next;
        },
        { replace: TYPED.has(key) },
      );
    },
    [key, setParams],
  );
  return [params.get(key) ?? "", set];
}
