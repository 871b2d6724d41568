// How answers look: by shape and word before colour.
import type { Schemas } from "../api/client";

export type State = Schemas["BaselineRow"]["state"];

export const MARKS: Record<State, string> = {
  met: "✓",
  "not met": "✕",
  "cannot tell": "?",
  "not applicable": "·",
};

export const TONES: Record<State, string> = {
  met: "text-pass",
  "not met": "text-fail",
  "cannot tell": "text-warn",
  "not applicable": "text-soft",
};

/** In words of people: “not applicable” is about settings, these are about whom it is for. */
export const WORDS: Record<State, string> = {
  met: "met",
  "not met": "not met",
  "cannot tell": "cannot be told",
  "not applicable": "not meant",
};
