import { useState } from "react";
import { ApiError } from "../api/client";
import type { Assumed } from "../api/forecast";
import { TextInput } from "../shared/fields";

/** What nobody can read from a directory: names in the address, usual values, and what they mean. */
export const ASSUMED = [
  {
    key: "skew",
    sign: "s",
    usual: "0.8",
    label: "Shape of people’s choice",
    about:
      "How unequally people choose: the password of rank r is as frequent as r^−s. 0: all alike. Measurements of leaked lists lie between 0.7 and 0.9.",
  },
  {
    key: "size",
    sign: "N",
    usual: "10000000",
    label: "Passwords they choose from",
    about: "How many different passwords there are in that list.",
  },
  {
    key: "mistakes",
    sign: "p",
    usual: "0.05",
    label: "Chance of a typing mistake",
    about: "At one try, whatever came before: 0.05 is one in twenty.",
  },
  {
    key: "line",
    sign: "R",
    usual: "3600",
    label: "An attacker’s tries an hour",
    about: "What the line carries, at all accounts together.",
  },
  {
    key: "offline",
    sign: "",
    usual: "10000000000",
    label: "Guesses a second, offline",
    about: "At stolen hashes, on the attacker’s own machines.",
  },
] as const;

/** The assumptions as numbers, those that are not given as they usually are. */
export const numbersOf = (assumed: Assumed) =>
  Object.fromEntries(
    ASSUMED.map(({ key, usual }) => [key, Number(assumed[key] ?? usual)]),
  ) as Record<(typeof ASSUMED)[number]["key"], number>;

/** The assumptions, each in a field of its own; what is refused is said below them. */
export function Assumptions({
  assumed,
  error,
  onChange,
}: {
  assumed: Assumed;
  error: Error | null;
  onChange: (key: string, value: string) => void;
}) {
  const refused = error instanceof ApiError ? error.fields : [];
  return (
    <fieldset className="grid grid-cols-[minmax(0,1fr)_7.5rem] items-center gap-x-2 gap-y-1">
      <legend className="mb-0.5 font-head text-sm font-semibold">What is assumed</legend>
      {ASSUMED.map(({ key, sign, usual, label, about }) => {
        const problem = refused.find((field) => field.field.endsWith(key))?.message;
        return (
          <label key={key} className="contents" title={about}>
            <span>
              {label} {sign && <i className="text-soft">{sign}</i>}
            </span>
            <Field
              value={assumed[key] ?? ""}
              usual={usual}
              invalid={problem !== undefined}
              about={about}
              onChange={(value) => onChange(key, value)}
            />
            {problem && (
              <span role="alert" className="col-span-2 text-xs text-fail">
                {problem}
              </span>
            )}
          </label>
        );
      })}
    </fieldset>
  );
}

function Field({
  value,
  usual,
  invalid,
  about,
  onChange,
}: {
  value: string;
  usual: string;
  invalid: boolean;
  about: string;
  onChange: (value: string) => void;
}) {
  // An emptied field stays empty until it is left: the usual value holds meanwhile.
  const [emptied, setEmptied] = useState(false);
  return (
    <TextInput
      inputMode="decimal"
      className="w-full text-right font-mono"
      aria-invalid={invalid}
      aria-description={about}
      maxLength={24}
      value={emptied ? "" : value || usual}
      onBlur={() => setEmptied(false)}
      onChange={({ target: { value: typed } }) => {
        setEmptied(typed === "");
        onChange(typed === usual ? "" : typed);
      }}
    />
  );
}
