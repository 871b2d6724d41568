import { useState } from "react";
import type { Schemas } from "../api/client";
import { Button } from "../shared/controls";
import { TextInput } from "../shared/fields";
import { useKept, type Work } from "../shared/kept";
import { May } from "../shared/May";
import { PartHead } from "../shared/PartHead";
import { parseSpan, spanText } from "../shared/span";
import { useWhenFree } from "../shared/useWhenFree";
import { workOn } from "./work";

type Band = Schemas["LifetimeBand"];

interface Typed {
  length: string;
  lives: string;
}

const EMPTY: Typed = { length: "", lives: "" };
const blank = (typed: Typed) => typed.length === "" && typed.lives === "";

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
  const [typed, setTyped] = useKept<Typed>(work, EMPTY, blank);
  const [wrong, setWrong] = useState("");
  const add = () => {
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
  // A save that has ended by then has emptied what was typed.
  const addWhenFree = useWhenFree(busy, () => {
    if (!blank(typed)) add();
  });
  return (
    <section aria-label="Lifetime by length">
      <PartHead>Lifetime by length</PartHead>
      {bands.length === 0 && (
        <p className="py-1 text-soft">
          None: every password lives as long as the maximum age says, however long it is.
        </p>
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
        <form
          noValidate
          aria-label="New lifetime"
          className="flex flex-wrap items-center gap-1.5 pt-1.5"
          onSubmit={(event) => {
            event.preventDefault();
            if (blank(typed)) setWrong("From how many characters on?");
            else addWhenFree();
          }}
        >
          <label className="flex items-center gap-1.5">
            From
            <TextInput
              className="w-14 text-right font-mono"
              inputMode="numeric"
              maxLength={3}
              value={typed.length}
              onChange={(event) => {
                setWrong("");
                setTyped({ ...typed, length: event.target.value });
              }}
            />
          </label>
          <label className="flex items-center gap-1.5">
            characters on
            <TextInput
              className="w-20 font-mono"
              placeholder="60 d"
              maxLength={40}
              value={typed.lives}
              onChange={(event) => {
                setWrong("");
                setTyped({ ...typed, lives: event.target.value });
              }}
            />
          </label>
          <Button type="submit" size="small">
            Add
          </Button>
          {wrong && (
            <p role="alert" className="basis-full text-xs text-fail">
              ✕ {wrong}
            </p>
          )}
        </form>
      </May>
    </section>
  );
}
