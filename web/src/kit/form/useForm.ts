import { useState } from "react";
import { conflictOf } from "../../api/writing";
import { focusAfterwards } from "../../shared/focus";
import { settleKept, useKept, type Work } from "../../shared/kept";
import { refusalsOf, type Problems } from "./refusals";

/** A write of a form, as `useMutation` tells of the write. */
export interface Write {
  error: Error | null;
  isPending: boolean;
  reset: () => void;
}

interface Options<T> {
  /** The place that keeps typed work until the work is saved; null for passwords: never kept. */
  work: Work | null;
  /** The values that are stored. */
  start: T;
  /** Returns true for a value that need not be kept. Left out: a value that equals `start`. */
  isBlank?: (value: T) => boolean;
  /** The writes that the form begins. */
  writes: Write[];
  /** The names of the fields beside which the form shows a refusal. */
  shows?: readonly string[];
  /** Problems of typed values that need no answer of the server. */
  check?: (value: T) => Problems;
}

/** The names of the fields that hold text. */
type TextKey<T> = { [K in keyof T]: T[K] extends string ? K : never }[keyof T];

const same = (one: unknown, other: unknown) => JSON.stringify(one) === JSON.stringify(other);

/**
 * The state of a form: the typed value, which outlives leaving the form, what is wrong with the
 * value, and what is under way. `Form` draws the element, and Enter sends.
 */
export function useForm<T>({ work, start, isBlank, writes, shows = [], check }: Options<T>) {
  const [value, keep, forget] = useKept<T>(work, start, isBlank ?? ((typed) => same(typed, start)));
  // Half-typed text in a field goes with the edits: fields drawn under another number begin anew.
  const [round, setRound] = useState(0);
  const error = writes.find((write) => write.error)?.error ?? null;
  const refusals = refusalsOf(error, shows);
  const problems = check?.(value) ?? {};
  const errors: Problems = { ...refusals.byField };
  for (const [field, problem] of Object.entries(problems)) if (problem) errors[field] = problem;
  const reset = () => {
    forget();
    setRound((number) => number + 1);
    for (const write of writes) write.reset();
  };
  const set = (next: T) => {
    // A conflict stays in view until the user has chosen a side.
    for (const write of writes) if (write.error && !conflictOf(write.error)) write.reset();
    keep(next);
  };
  return {
    value,
    set,
    change: (part: Partial<T>) => set({ ...value, ...part }),
    /** True if the value differs from the stored values. */
    changed: !same(value, start),
    /** True if a typed value cannot be sent. */
    blocked: Object.values(problems).some(Boolean),
    busy: writes.some((write) => write.isPending),
    errors,
    errorOf: (...names: string[]) => {
      const typed = names.map((name) => problems[name]).find(Boolean);
      return typed ?? refusals.of(...names);
    },
    /** The refusal of the whole form, or of fields that the form does not show. */
    refusal: refusals.whole,
    conflict: conflictOf(error),
    round,
    /** Give up what is typed. */
    reset,
    /** The properties of a text field: its value and its handler. */
    text: (key: TextKey<T>) => ({
      value: String(value[key]),
      onChange: (event: { target: { value: string } }) =>
        set({ ...value, [key]: event.target.value }),
    }),
    /**
     * Forget what was sent, or go on with what is `left` of it; what was typed on meanwhile stays.
     */
    saved: (sent: T, left?: T) => forget(sent, left),
    /**
     * Take note that what was sent is saved in this place. Returns true if nothing was typed on
     * meanwhile.
     */
    settled: (place: string, sent: T) => {
      const settled = work === null || settleKept(work, sent, place);
      if (settled) reset();
      return settled;
    },
    /**
     * Begin a write. `done` returns the id of the element that takes the focus, if another one
     * does. After a refusal the first refused field takes the focus.
     */
    send: <R>(write: () => Promise<R>, done: (result: R, sent: T) => unknown) => {
      const focus = focusAfterwards();
      void write().then((result) => {
        const next = done(result, value);
        if (typeof next === "string") focus.on(next);
      }, focus.onRefused);
    },
  };
}

export type FormState<T> = ReturnType<typeof useForm<T>>;
