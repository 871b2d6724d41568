import { useId, useState } from "react";
import { useKeepTrial } from "../api/bench";
import type { Schemas } from "../api/client";
import { announce } from "../shared/announce";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Choices } from "../kit/Choices";
import { Finder } from "../shared/Finder";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { Drop } from "../kit/Drop";
import { useBench } from "./BenchProvider";
import { at } from "../draft/place";
import { TextInput } from "../kit/inputs";
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
      <TrialForm {...props} onDone={() => setOpen(false)} />
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

function TrialForm({ place, kept, first, onDone }: Props & { onDone: () => void }) {
  const { accounts, setFace } = useBench();
  const what = kindOf(kept);
  const words = WORDS[what];
  const keep = useKeepTrial(place);
  const title = useId();
  // The candidate itself lies on the bench and is kept nowhere.
  const form = useForm<Typed>({
    work: {
      place,
      about: what === "story" ? "story trial" : "trial",
      label: words.label,
      to: `/${at(place)}/strata`,
    },
    start: {
      named: "",
      kind: accounts[0] ? "population" : "group",
      target: accounts[0] ?? "",
      expected: first,
    },
    isBlank: untyped,
    writes: [keep],
  });
  const { named, kind, target, expected } = form.value;
  const [invented, setInvented] = useState(false);
  const ready = (what === "story" || invented) && named.trim() !== "" && target !== "";
  const save = () => {
    if (!ready) return;
    const wanted = { kind, target, expected, rule: "" as const, invented: what === "candidate" };
    form.send(
      () => keep.mutateAsync({ title: named, ...kept, ...wanted }),
      (_, sent) => {
        form.saved(sent);
        onDone();
        setFace("trials");
        announce("The trial is kept.");
        return "trials";
      },
    );
  };
  return (
    <Form of={form} className="space-y-2.5" onSubmit={save}>
      <h3 className="text-sm">Keep as a trial</h3>
      <div>
        <label htmlFor={title} className="text-xs text-soft">
          What it guards
        </label>
        <TextInput
          id={title}
          {...form.text("named")}
          maxLength={200}
          placeholder={words.example}
          className="w-full"
        />
      </div>
      <Choices
        label="Whom it is about"
        value={kind}
        onChange={(next) => {
          // A group's name is no account's, nor the other way round.
          const other = (next === "group") !== (kind === "group");
          form.change({
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
        onPick={(hit) => form.change({ target: hit.name })}
      />
      <Choices
        label="What must come of it"
        value={expected}
        onChange={(next) => form.change({ expected: next })}
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
        <Alert tone="warn">
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
        </Alert>
      )}
      <Refusal error={keep.error} />
      <div className="flex justify-between">
        <Button
          onClick={() => {
            form.reset();
            onDone();
          }}
        >
          Give it up
        </Button>
        <Button type="submit" tone="main" disabled={!ready || form.busy}>
          {keep.isPending ? "Keeping …" : "Keep the trial"}
        </Button>
      </div>
    </Form>
  );
}
