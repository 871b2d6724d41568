import { EmptyState } from "../kit/EmptyState";
import { Problem } from "../kit/Problem";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { Button } from "../kit/Button";
import { TextInput } from "../kit/inputs";
import type { Work } from "../shared/kept";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { May } from "../shared/May";
import { PartHead } from "../kit/PartHead";
import { parseSpan, spanText } from "../shared/span";
import { workOn } from "./work";

type Band = Schemas["LifetimeBand"];

interface Typed {
  length: string;
  lives: string;
}

const EMPTY: Typed = { length: "", lives: "" };

interface Props {
  domain: string;
  policy: string;
  bands: Band[];
  busy: boolean;
  /** The bands as they are to be, and what was typed for that. */
  onChange: (bands: Band[], work?: Work, sent?: unknown) => void;
}

/** How long what is accepted lives by its length, so that length is rewarded. */
export function Bands({ domain, policy, bands, busy, onChange }: Props) {
  const work = workOn(`lifetime ${policy}`, "A lifetime by length", domain, policy);
  const form = useForm<Typed>({ work, start: EMPTY, writes: [] });
  const [wrong, setWrong] = useState("");
  const type = (part: Partial<Typed>) => {
    setWrong("");
    form.change(part);
  };
  const add = () => {
    const typed = form.value;
    const lifetime = parseSpan(typed.lives, "days");
    if (!/^\d{1,3}$/.test(typed.length.trim())) return setWrong("From how many characters on?");
    if (lifetime === undefined || lifetime <= 0)
      return setWrong("How long? Give a span, such as 60 d.");
    const length = Number(typed.length);
    onChange(
      [...bands.filter((band) => band.length !== length), { length, lifetime }].sort(
        (a, b) => a.length - b.length,
      ),
      work,
      typed,
    );
  };
  return (
    <section aria-label="Lifetime by length">
      <PartHead>Lifetime by length</PartHead>
      {bands.length === 0 && (
        <EmptyState>
          None: every password lives as long as the maximum age says, however long it is.
        </EmptyState>
      )}
      <ul>
        {bands.map((band) => (
          <li key={band.length} className="flex items-center gap-1 border-b border-line/60 py-0.5">
            <span className="flex-1">
              From {band.length.toLocaleString("en")} characters on{" "}
              <span className="font-mono">{spanText(band.lifetime)}</span>
            </span>
            <May right="draft" at={domain}>
              <button
                type="button"
                className="h-6 w-6 rounded text-soft hover:bg-failbg hover:text-fail disabled:opacity-40"
                disabled={busy}
                aria-label={`Take out: from ${band.length} characters on`}
                title={`Take out: from ${band.length} characters on`}
                onClick={() => onChange(bands.filter((one) => one !== band))}
              >
                ✕
              </button>
            </May>
          </li>
        ))}
      </ul>
      <May right="draft" at={domain}>
        <Form
          of={{ value: form.value, busy }}
          label="New lifetime"
          className="flex flex-wrap items-center gap-1.5 pt-1.5"
          onSubmit={add}
        >
          <label className="flex items-center gap-1.5">
            From
            <TextInput
              className="w-14 text-right font-mono"
              inputMode="numeric"
              maxLength={3}
              value={form.value.length}
              onChange={(event) => type({ length: event.target.value })}
            />
          </label>
          <label className="flex items-center gap-1.5">
            characters on
            <TextInput
              className="w-20 font-mono"
              placeholder="60 d"
              maxLength={40}
              value={form.value.lives}
              onChange={(event) => type({ lives: event.target.value })}
            />
          </label>
          <Button type="submit" size="small">
            Add
          </Button>
          <Problem className="basis-full">{wrong}</Problem>
        </Form>
      </May>
    </section>
  );
}
