import { useState } from "react";
import { useDropTerms, useSetTerms, useTerms } from "../api/additions";
import { announce } from "../shared/announce";
import { focusAfterwards } from "../shared/focus";
import { Button, ButtonLink, Failed, Loading, Refused } from "../shared/controls";
import { TextArea, TextInput } from "../shared/fields";
import { changeKept, useKept } from "../shared/kept";
import { May, MayChange } from "../shared/May";
import { plural } from "../shared/span";
import { useWhenFree } from "../shared/useWhenFree";
import { settled, workOn } from "./work";

interface Typed {
  name: string;
  /** null as long as the terms are as they are kept. */
  terms: string | null;
  seen: string;
}

/** Characters that are shown to be typed on. */
const MOST_TYPED = 100_000;

interface Chosen {
  name: string;
  blob: Blob;
  count: number;
  first: string[];
}

/** A file that is too long to be typed on; null for a shorter one. */
async function read(file: File): Promise<Chosen | null> {
  if (file.size <= MOST_TYPED) return null;
  const text = await file.text();
  let count = 0;
  for (let at = 0; at < text.length;) {
    const end = text.indexOf("\n", at) < 0 ? text.length : text.indexOf("\n", at);
    if (text.slice(at, end).trim()) count += 1;
    at = end + 1;
  }
  return { name: file.name, blob: file, count, first: text.slice(0, 2000).split(/\r?\n/) };
}

const blank = (typed: Typed) => typed.name === "" && typed.terms === null;

interface Props {
  domain: string;
  policy: string;
  /** "" for a new list. */
  name: string;
  house: string[];
  onDone: () => void;
}

/** The terms of one list, one a line. A long one is replaced as a file. */
export function TermsForm({ domain, policy, name, house, onDone }: Props) {
  const held = useTerms(domain, name);
  if (name && held.isPending) return <Loading what="the terms" />;
  if (name && held.error) return <Failed error={held.error} retry={() => void held.refetch()} />;
  const kept = held.data ?? { name, digest: "", count: 0, terms: [] };
  return <Sheet {...{ domain, policy, name, house, onDone, kept }} />;
}

function Sheet({
  domain,
  policy,
  name,
  house,
  onDone,
  kept,
}: Props & { kept: { digest: string; count: number; terms: string[] } }) {
  const set = useSetTerms(domain);
  const drop = useDropTerms(domain);
  const label = name ? `The list ${name}` : "A new list of blocked terms";
  const work = workOn(`terms ${name}`, label, domain, policy, name || " ");
  const start = { name: "", terms: null, seen: kept.digest };
  const [typed, setTyped, forget] = useKept<Typed>(work, start, blank);
  // A file too long to be typed on: it goes as it is, and can be chosen again.
  const [file, setFile] = useState<Chosen | null>(null);
  const whole = kept.terms.length === kept.count;
  const editable = !file && (whole || typed.terms !== null);
  const text = typed.terms ?? kept.terms.join("\n");
  const change = (terms: string) => {
    setFile(null);
    setTyped({ ...typed, terms, seen: typed.terms === null ? kept.digest : typed.seen });
  };
  const lines = editable ? text.split("\n").filter((line) => line.trim()) : [];
  const held = new Set(lines.map((line) => line.trim().toLowerCase()));
  const proposed = house.filter((word) => !held.has(word));
  const count = file ? file.count : typed.terms === null ? kept.count : lines.length;
  const wanted = name || typed.name.trim();
  const unchanged = typed.terms === null && file === null && name !== "";
  const save = useWhenFree(set.isPending, () => {
    if (!wanted || unchanged) return;
    const sent = typed;
    const focus = focusAfterwards();
    const seen = typed.terms === null ? kept.digest : typed.seen;
    const terms = file ? file.blob : new Blob([text]);
    void set.mutateAsync({ name: wanted, seen, terms }).then(({ place, result }) => {
      announce("Saved to the draft.");
      // Whoever has typed on changes what is saved now.
      if (!settled(domain, policy, place, work, sent))
        return changeKept<Typed>(place, work.about, (on) => ({ ...on, seen: result.digest }));
      onDone();
      focus.on("new-list");
    }, focus.onRefused);
  });
  return (
    <form
      noValidate
      aria-label={name ? `Terms of ${name}` : "New list"}
      className="my-1 space-y-1.5 rounded border border-edge bg-white px-2.5 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      {!name && (
        <label className="flex items-center gap-2">
          Name
          <TextInput
            autoFocus
            className="flex-1"
            maxLength={64}
            placeholder="such as house"
            value={typed.name}
            onChange={(event) => setTyped({ ...typed, name: event.target.value })}
          />
        </label>
      )}
      {editable ? (
        <MayChange right="draft" at={domain}>
          <label className="block">
            <span className="text-soft">Terms, one a line</span>
            <TextArea
              className="h-28 resize-y font-mono text-sm"
              spellCheck={false}
              value={text}
              onChange={(event) => change(event.target.value)}
            />
          </label>
        </MayChange>
      ) : (
        <p className="text-soft">
          {file ? `${file.name}: ` : ""}
          {plural(count, "term")}, of which the first are{" "}
          {(file?.first ?? kept.terms).slice(0, 8).join(", ")} … A list this long is replaced as a
          file.
        </p>
      )}
      <p className="text-xs text-soft">
        {editable && `${plural(count, "term")}. `}They are found however they are written: in
        capitals, with accents, with 0 for o or $ for s.
      </p>
      <Refused error={set.error ?? drop.error} />
      <div className="flex flex-wrap gap-1.5">
        <May right="draft" at={domain}>
          <Button
            type="submit"
            size="small"
            tone="main"
            disabled={!wanted || unchanged}
            aria-busy={set.isPending}
          >
            {set.isPending ? "Saving …" : "Save to draft"}
          </Button>
          <Button
            size="small"
            onClick={() => {
              forget();
              setFile(null);
              set.reset();
              onDone();
            }}
          >
            Discard
          </Button>
          {editable && proposed.length > 0 && (
            <Button
              size="small"
              title={proposed.slice(0, 12).join(", ")}
              onClick={() => change([...lines, ...proposed.slice(0, 50)].join("\n"))}
            >
              Add words of the house
            </Button>
          )}
          <label className="inline-flex h-6 cursor-pointer items-center text-xs underline focus-within:outline-2 focus-within:outline-focus">
            From a file …
            <input
              type="file"
              accept=".txt,text/plain"
              className="sr-only"
              onChange={(event) => {
                const chosen = event.target.files?.[0];
                event.target.value = "";
                if (chosen)
                  void read(chosen).then((found) =>
                    found ? setFile(found) : chosen.text().then(change),
                  );
              }}
            />
          </label>
          {name && (
            <Button
              size="small"
              tone="danger"
              disabled={drop.isPending}
              onClick={() => {
                const focus = focusAfterwards();
                void drop.mutateAsync({ name, seen: kept.digest }).then(({ place }) => {
                  forget();
                  settled(domain, policy, place);
                  announce("Taken away in the draft.");
                  onDone();
                  focus.on("new-list");
                }, focus.onRefused);
              }}
            >
              Take it away
            </Button>
          )}
        </May>
        {name && (
          <ButtonLink
            size="small"
            href={`/api/domains/${domain}/blocked-terms/${encodeURIComponent(name)}/export`}
            download
          >
            Export
          </ButtonLink>
        )}
      </div>
    </form>
  );
}
