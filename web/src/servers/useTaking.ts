import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { takeTemplate, type ServerFile } from "../api/servers";
import type { Taken } from "./files";

/** Files that go to the server at a time. */
const AT_ONCE = 4;

export interface Taking {
  of: number;
  taken: Taken[];
  /** What has not gone yet; with an error it waits until it is tried again. */
  rest: ServerFile[];
  error: Error | null;
}

/** Takes many servers' files, a few at a time; what is cut off goes on where it stopped. */
export function useTaking(domain: string, number: number) {
  const client = useQueryClient();
  const [taking, setTaking] = useState<Taking | null>(null);

  const take = async (files: ServerFile[], before: Taken[] = []) => {
    const rest = [...files];
    const taken = [...before];
    const of = before.length + files.length;
    let error: Error | null = null;
    // Cut off is said only once those under way have come back: they are neither taken nor left.
    const show = (over = false) =>
      setTaking({ of, taken: [...taken], rest: [...rest], error: over ? error : null });
    const one = async () => {
      while (!error) {
        const next = rest.shift();
        if (!next) return;
        try {
          taken.push({ path: next.path, ...(await takeTemplate(domain, number, next)) });
        } catch (problem) {
          rest.push(next);
          error = problem instanceof Error ? problem : new Error(String(problem));
          return;
        }
        show();
      }
    };
    show();
    await Promise.all(Array.from({ length: AT_ONCE }, one));
    await client.invalidateQueries({ queryKey: ["domain", domain] });
    show(true);
  };

  return {
    taking,
    /** Whether files are on their way. */
    busy: taking !== null && !taking.error && taking.taken.length < taking.of,
    begin: (files: ServerFile[]) => void take(files),
    goOn: () => taking && void take(taking.rest, taking.taken),
    forget: () => setTaking(null),
  };
}
