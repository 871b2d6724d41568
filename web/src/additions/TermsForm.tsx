import { useState } from "react";
import { useDropTerms, useSetTerms, useTerms } from "../api/additions";
import { Refusal } from "../kit/Alert";
import { Button, ButtonLink } from "../kit/Button";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { TextInput } from "../kit/inputs";
import { Failure, Loading } from "../kit/Loading";
import { announce } from "../shared/announce";
import { changeKept } from "../shared/kept";
import { May, MayChange } from "../shared/May";
import { TermsFile, type Chosen } from "./TermsFile";
import { TermsText } from "./TermsText";
import { settled, workOn } from "./work";

interface Typed {
  name: string;
  /** null as long as the terms are as they are kept. */
  terms: string | null;
  seen: string;
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
  if (name && held.error) return <Failure error={held.error} retry={() => void held.refetch()} />;
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
  const form = useForm<Typed>({
    work,
    start: { name: "", terms: null, seen: kept.digest },
    isBlank: blank,
    writes: [set, drop],
  });
  const typed = form.value;
  // A file too long to be typed on: it goes as it is, and can be chosen again.
  const [file, setFile] = useState<Chosen | null>(null);
  const isWhole = kept.terms.length === kept.count;
  const editable = !file && (isWhole || typed.terms !== null);
  const text = typed.terms ?? kept.terms.join("\n");
  const change = (terms: string) => {
    setFile(null);
    form.change({ terms, seen: typed.terms === null ? kept.digest : typed.seen });
  };
  const lines = editable ? text.split("\n").filter((line) => line.trim()) : [];
  const held = new Set(lines.map((line) => line.trim().toLowerCase()));
  const proposed = house.filter((word) => !held.has(word));
  const count = file ? file.count : typed.terms === null ? kept.count : lines.length;
  const wanted = name || typed.name.trim();
  const unchanged = typed.terms === null && file === null && name !== "";
  const save = () => {
    if (!wanted || unchanged) return;
    const seen = typed.terms === null ? kept.digest : typed.seen;
    const terms = file ? file.blob : new Blob([text]);
    form.send(
      () => set.mutateAsync({ name: wanted, seen, terms }),
      ({ place, result }, sent) => {
        announce("Saved to the draft.");
        // Whoever has typed on changes what is saved now.
        if (!settled(domain, policy, place, work, sent)) {
          changeKept<Typed>(place, work.about, (on) => ({ ...on, seen: result.digest }));
          return;
        }
        onDone();
        return "new-list";
      },
    );
  };
  const takeAway = () =>
    form.send(
      () => drop.mutateAsync({ name, seen: kept.digest }),
      ({ place }) => {
        form.reset();
        settled(domain, policy, place);
        announce("Taken away in the draft.");
        onDone();
        return "new-list";
      },
    );
  return (
    <Form
      of={form}
      label={name ? `Terms of ${name}` : "New list"}
      className="my-1 space-y-1.5 rounded border border-edge bg-white px-2.5 py-2"
      onSubmit={save}
    >
      {!name && (
        <label className="flex items-center gap-2">
          Name
          <TextInput
            autoFocus
            className="flex-1"
            maxLength={64}
            placeholder="such as house"
            {...form.text("name")}
          />
        </label>
      )}
      <MayChange right="draft" at={domain}>
        <TermsText
          text={editable ? text : null}
          count={count}
          file={file?.name ?? ""}
          first={file?.first ?? kept.terms}
          onChange={change}
        />
      </MayChange>
      <Refusal error={set.error ?? drop.error} />
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
              setFile(null);
              form.reset();
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
          <TermsFile onText={change} onLong={setFile} />
          {name && (
            <Button size="small" tone="danger" disabled={drop.isPending} onClick={takeAway}>
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
    </Form>
  );
}
