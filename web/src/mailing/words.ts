import type { Kind, LetterInfo } from "../api/mailing";

/** What people can be written about, and when. */
export const KINDS: Record<Kind, { label: string; meaning: string }> = {
  expiring: { label: "The password ends soon", meaning: "so many days before, each time once" },
  expired: { label: "The password has ended", meaning: "once for each password" },
  "must change": {
    label: "It has to be changed",
    meaning: "at the next sign-in, as somebody has set it",
  },
  locked: { label: "The account is locked", meaning: "once for each lock, with when it opens" },
  exposed: {
    label: "Others know the password",
    meaning: "it is on a list, can be guessed, or is shared",
  },
  "policy changed": {
    label: "Other rules hold",
    meaning: "a policy was published, or another one holds for the account",
  },
};

export const KIND_ORDER = Object.keys(KINDS) as Kind[];

type State = LetterInfo["state"];

export const STATES: Record<State, { mark: string; words: string; tone: string }> = {
  waiting: { mark: "…", words: "waits", tone: "text-soft" },
  sending: { mark: "…", words: "is being handed over", tone: "text-soft" },
  sent: { mark: "✓", words: "handed over", tone: "text-pass" },
  refused: { mark: "✕", words: "refused", tone: "text-fail" },
  uncertain: { mark: "?", words: "may have gone", tone: "text-warn" },
  dropped: { mark: "–", words: "dropped: nothing of it is so any more", tone: "text-soft" },
};
