import { useState } from "react";
import { ApiError } from "../api/client";
import type { Assumed } from "../api/forecast";
import { TextInput } from "../kit/inputs";

/** Something that nobody can read from a directory: its name in the address, its usual value. */
interface AssumedField {
  key: string;
  sign: string;
  usual: string;
  label: string;
  about: string;
}

/** What is assumed of guessers and of people's passwords. */
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
] as const satisfies AssumedField[];

/** What is assumed of how people sign in, beside what guesses at their passwords come to. */
export const HABITS: AssumedField[] = [
  {
    key: "sign_ins",
    sign: "n",
    usual: "3",
    label: "Sign-ins on a working day",
    about: "How often a day somebody types the password, unlocking the screen included.",
  },
  {
    key: "seconds",
    sign: "t",
    usual: "0.4",
    label: "Seconds for a character",
    about: "What typing one character of a password takes.",
  },
  {
    key: "change",
    sign: "c",
    usual: "4",
    label: "Minutes for a change",
    about: "What choosing another password takes, and telling it to telephones and the like.",
  },
  {
    key: "call",
    sign: "h",
    usual: "20",
    label: "Minutes until the help desk has unlocked",
    about: "How long somebody waits who does not wait for the lock to end by itself.",
  },
  ...ASSUMED.filter(({ key }) => key === "mistakes" || key === "skew" || key === "size"),
];

/** What the address says of these. */
export const assumedIn = (params: URLSearchParams, fields: readonly AssumedField[]): Assumed =>
  Object.fromEntries(
    fields.flatMap(({ key }) => {
      const value = params.get(key);
      return value ? [[key, value]] : [];
    }),
  );

/** The assumptions as numbers, those that are not given as they usually are. */
export const numbersOf = (assumed: Assumed) =>
  Object.fromEntries(
    ASSUMED.map(({ key, usual }) => [key, Number(assumed[key] ?? usual)]),
  ) as Record<(typeof ASSUMED)[number]["key"], number>;

/** The assumptions, each in a field of its own; what is refused is said below them. */
export function Assumptions({
  fields,
  assumed,
  error,
  onChange,
}: {
  fields: readonly AssumedField[];
  assumed: Assumed;
  error: Error | null;
  onChange: (key: string, value: string) => void;
}) {
  const refused = error instanceof ApiError ? error.fields : [];
  return (
    <fieldset className="grid grid-cols-[minmax(0,1fr)_7.5rem] items-center gap-x-2 gap-y-1">
      <legend className="mb-0.5 font-head text-sm font-semibold">What is assumed</legend>
      {fields.map(({ key, sign, usual, label, about }) => {
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
