import { EmptyState } from "../kit/EmptyState";
import type { ReactNode } from "react";
import type { Addition, PathName, Rule } from "../api/additions";
import type { Schemas } from "../api/client";
import { Button } from "../kit/Button";
import { PartHead } from "../kit/PartHead";
import { May } from "../shared/May";
import { Does, type EffectsAnswer } from "./Effects";
import { begun, typedOf } from "./kinds";
import type { Working } from "./editing";

const TEXTS: Record<PathName, { title: string; empty: string }> = {
  password: {
    title: "As a password",
    empty: "No password path: nothing of characters is asked.",
  },
  phrase: {
    title: "As a phrase",
    empty: "No phrase path: words in a row are judged like any password.",
  },
};

interface Props {
  domain: string;
  path: PathName;
  rules: Schemas["AdditionInfo"][PathName];
  /** The rules as they are typed. */
  typed: Addition;
  /** The rule that is typed, if on this path, and the number where the rule stands. */
  working: Working | null;
  place: number;
  /** The form of that rule. */
  form: ReactNode;
  effects: EffectsAnswer | undefined;
  busy: boolean;
  onWork: (working: Working) => void;
  onTakeOut: (number: number) => void;
}

/** The rules of one path as sentences, each of which can be changed and taken out. */
export function PathSection({ path, working, place, form, effects, ...props }: Props) {
  const { domain, rules, typed, busy, onWork, onTakeOut } = props;
  const { title, empty } = TEXTS[path];
  const count = rules?.length ?? 0;
  const atEnd = working !== null && place === count;
  const does = (number: number) => <Does of={effects} path={path} rule={typed[path]?.[number]} />;
  const first = path === "phrase" && !rules ? "words" : "length";
  return (
    <section aria-label={title}>
      <PartHead
        beside={
          <May right="draft" at={domain}>
            <Button
              id={`add-rule-${path}`}
              size="small"
              aria-expanded={atEnd}
              onClick={() => onWork(workOn(path, null, begun(first)))}
            >
              + Rule
            </Button>
          </May>
        }
      >
        {title}
      </PartHead>
      {!rules && !working && <EmptyState>{empty}</EmptyState>}
      <ul>
        {rules?.map((one, number) =>
          working && place === number ? (
            <li key={number}>
              {form}
              {does(number)}
            </li>
          ) : (
            <li key={number} className="border-b border-line/60 py-1">
              <div className="flex items-start gap-1">
                <span className="min-w-0 flex-1 break-words">{sentence(one.said)}</span>
                <May right="draft" at={domain}>
                  <button
                    type="button"
                    className="h-6 shrink-0 rounded px-1.5 text-xs underline hover:bg-hover"
                    aria-label={`Change: ${one.said}`}
                    onClick={() => onWork(workOn(path, one.rule, typedOf(one.rule)))}
                  >
                    Change
                  </button>
                  <button
                    type="button"
                    className="h-6 w-6 shrink-0 rounded text-soft hover:bg-failbg hover:text-fail disabled:opacity-40"
                    disabled={busy}
                    aria-label={`Take out: ${one.said}`}
                    title={`Take out: ${one.said}`}
                    onClick={() => onTakeOut(number)}
                  >
                    ✕
                  </button>
                </May>
              </div>
              {does(number)}
            </li>
          ),
        )}
      </ul>
      {atEnd && (
        <>
          {working.was && (
            <p className="text-xs text-warn">
              △ The rule that was being changed is gone: this one would be added.
            </p>
          )}
          {form}
          {does(place)}
        </>
      )}
    </section>
  );
}

const workOn = (path: PathName, was: Rule | null, typed: Working["typed"]): Working => ({
  path,
  was,
  typed,
  begun: Date.now(),
});

const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
