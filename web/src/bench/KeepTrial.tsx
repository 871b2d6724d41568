import { useId, useState } from "react";
import { useKeepTrial } from "../api/bench";
import type { Schemas } from "../api/client";
import { announce } from "../shared/announce";
import { focusAfterwards } from "../shared/focus";
import { Button, Choices, Notice, Refused } from "../shared/controls";
import { Finder } from "../shared/Finder";
import { useKept } from "../shared/kept";
import { Drop } from "../shared/Drop";
import { useBench } from "./BenchProvider";
import { at } from "../draft/place";
import { TextInput } from "../shared/fields";
import { useMay } from "../api/domains";

type Kind = Schemas["TrialNew"]["kind"];

/** What is kept: the candidate on the bench, or a story in words. */
type Kept = { candidate: string; present: string | null } | { story: string };
type Expected = Schemas["TrialNew"]["expected"];

const WORDS = {
  candidate: {
    title: "Keep the candidate with the verdict it must get, to be run on every draft",
    label: "A trial on the bench, not kept yet",
    example: "Kiosk accounts must not accept digits alone",
    choices: [
      { value: "refused", label: "Must be refused" },
      { value: "accepted", label: "Must be accepted" },
    ],
  },
  story: {
    title: "Keep the story with what must become of it, to be run on every draft",
    label: "A story to keep as a trial, not kept yet",
    example: "A device that retries every 5 min must not lock service accounts",
    choices: [
      { value: "stays_open", label: "Must not lock" },
      { value: "locks", label: "Must lock" },
    ],
  },
} as const;

interface Props {
  place: string;
  kept: Kept;
  /** What came of it just now. */
  first: Expected;
}

/** Keeps a candidate or a story as a trial: from then on it is run on live and on every draft. */
export function KeepTrial({ stale, ...props }: Props & { stale: boolean }) {
  const [open, setOpen] = useState(false);
  if (!useMay(props.place)("draft")) return null;
  return (
    <Drop
      side="top"
      label="Keep as a trial"
      className="w-[400px]"
      align="end"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <Button disabled={stale && !open} title={WORDS[kindOf(props.kept)].title}>
          Keep as trial …
        </Button>
      }
    >
      <Form {...props} onDone={() => setOpen(false)} />
    </Drop>
  );
}

interface Typed {
  named: string;
  kind: Kind;
  target: string;
  expected: Expected;
}

const kindOf = (kept: Kept) => ("story" in kept ? "story" : "candidate");

const untyped = (form: Typed) => form.named === "";

function Form({ place, kept, first, onDone }: Props & { onDone: () => void }) {
  const { accounts, setFace } = useBench();
  const what = kindOf(kept);
  const words = WORDS[what];
  const keep = useKeepTrial(place);
  const title = useId();
  // The candidate itself lies on the bench and is kept nowhere.
  const [form, setForm, forget] = useKept<Typed>(
    {
      place,
      about: what === "story" ? "story trial" : "trial",
      label: words.label,
      to: `/${at(place)}/strata`,
    },
    {
      named: "",
      kind: accounts[0] ? "population" : "group",
      target: accounts[0] ?? "",
      expected: first,
    },
    untyped,
  );
  const { named, kind, target, expected } = form;
  const [invented, setInvented] = useState(false);
  const save = () => {
    const focus = focusAfterwards();
    keep.mutate(
      { title: named, ...kept, kind, target, expected, rule: "", invented: what === "candidate" },
      {
        onSuccess: () => {
          forget(form);
          onDone();
          setFace("trials");
          announce("The trial is kept.");
          focus.on("trials");
        },
      },
    );
  };
  return (
    <form
      className="space-y-2.5"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <h3 className="text-sm">Keep as a trial</h3>
      <div>
        <label htmlFor={title} className="text-xs text-soft">
          What it guards
        </label>
        <TextInput
          id={title}
          value={named}
          maxLength={200}
          placeholder={words.example}
          className="w-full"
          onChange={(event) => setForm({ ...form, named: event.target.value })}
        />
      </div>
      <Choices
        label="Whom it is about"
        value={kind}
        onChange={(next) => {
          // A group's name is no account's, nor the other way round.
          const other = (next === "group") !== (kind === "group");
          setForm({
            ...form,
            kind: next,
            target: !other ? target : next === "group" ? "" : (accounts[0] ?? ""),
          });
        }}
        choices={[
          { value: "account", label: "One account" },
          { value: "population", label: "Its population" },
          { value: "group", label: "A group" },
        ]}
      />
      <p>
        {target === ""
          ? "Nobody is chosen yet."
          : kind === "population"
            ? `Everybody with the same policies as ${target}.`
            : kind === "group"
              ? `Everybody in ${target}.`
              : target}
      </p>
      <Finder
        domain={place}
        kinds={[kind === "group" ? "group" : "account"]}
        label={kind === "group" ? "Group of the trial" : "Account of the trial"}
        placeholder={kind === "group" ? "Choose a group" : "Choose another account"}
        onPick={(hit) => setForm({ ...form, target: hit.name })}
      />
      <Choices
        label="What must come of it"
        value={expected}
        onChange={(next) => setForm({ ...form, expected: next })}
        choices={[...words.choices]}
      />
      {"candidate" in kept && kept.present !== null && (
        <p className="text-xs text-soft">
          As the account’s own change, in the place of the earlier password on the bench.
        </p>
      )}
      {what === "story" ? (
        <p className="font-mono text-xs break-words">{"story" in kept && kept.story}</p>
      ) : (
        <Notice tone="warn">
          A trial is stored with its candidate
          {"candidate" in kept && kept.present !== null && " and the one before it"}, and everybody
          who signs in here can read it.
          <label className="mt-1 flex items-center gap-1.5 font-medium">
            <input
              type="checkbox"
              checked={invented}
              onChange={(event) => setInvented(event.target.checked)}
            />
            {"candidate" in kept && kept.present !== null
              ? "Both are invented; nobody uses them"
              : "This candidate is invented; nobody uses it"}
          </label>
        </Notice>
      )}
      <Refused error={keep.error} />
      <div className="flex justify-between">
        <Button
          onClick={() => {
            forget();
            onDone();
          }}
        >
          Give it up
        </Button>
        <Button
          type="submit"
          tone="main"
          disabled={
            (what === "candidate" && !invented) ||
            named.trim() === "" ||
            target === "" ||
            keep.isPending
          }
        >
          {keep.isPending ? "Keeping …" : "Keep the trial"}
        </Button>
      </div>
    </form>
  );
}
