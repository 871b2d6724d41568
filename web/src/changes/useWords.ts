import { useRef, useState } from "react";
import { useDescribeDraft } from "../api/drafts";
import type { Schemas } from "../api/client";
import { keptValue, useKept } from "../shared/kept";
import { at } from "../draft/place";

/** Only what was touched, so that what somebody else wrote in the other field survives. */
interface Typed {
  title?: string;
  reason?: string;
}

const untyped = (typed: Typed) => typed.title === undefined && typed.reason === undefined;
const NOTHING: Typed = {};

/**
 * Title and reason of a draft as they are typed. They are saved when a field is left, and before
 * anything is done with the draft.
 */
export function useWords(place: string, draft: Schemas["DraftDetail"] | undefined) {
  const about = "words";
  const [typed, setTyped, forget] = useKept<Typed>(
    { place, about, label: "Title and reason of the draft", to: `/${at(place)}/changes` },
    NOTHING,
    untyped,
  );
  const describe = useDescribeDraft(place);
  const saving = useRef<Promise<unknown> | null>(null);
  const title = typed.title ?? draft?.title ?? "";
  const reason = typed.reason ?? draft?.reason ?? "";

  const save = async (): Promise<void> => {
    if (!draft) return;
    const now = keptValue<Typed>(place, about);
    if (now === undefined) return;
    const body = {
      version: draft.version,
      title: (now.title ?? "").trim() || draft.title,
      reason: now.reason ?? draft.reason,
    };
    if (body.title !== draft.title || body.reason !== draft.reason)
      await describe.mutateAsync(body);
    // What was typed on meanwhile is still to be saved.
    if (keptValue(place, about) === now) forget();
  };
  /** Saves what is typed and waits for it. Rejects with what the server said against it. */
  const flush = (): Promise<void> => {
    const before = saving.current?.catch(() => undefined) ?? Promise.resolve();
    const mine = before.then(save);
    saving.current = mine;
    return mine;
  };
  return {
    title,
    reason,
    type: (change: Typed) => setTyped({ ...typed, ...change }),
    flush,
    error: describe.error,
    busy: describe.isPending,
    unsaved: !untyped(typed) && (title !== draft?.title || reason !== draft.reason),
  };
}

export type Words = ReturnType<typeof useWords>;

/**
 * Something done with a draft once its words are saved: that it is under way, and what came of it.
 */
export function useAfterWords(words: Words) {
  const [error, setError] = useState<Error | null>(null);
  const [busy, setBusy] = useState(false);
  const run = (act: () => Promise<unknown>) => {
    setBusy(true);
    setError(null);
    void words
      .flush()
      .then(act)
      .catch((reason: unknown) =>
        setError(reason instanceof Error ? reason : new Error("It did not work.")),
      )
      .finally(() => setBusy(false));
  };
  return { run, busy, error };
}
