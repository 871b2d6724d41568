import { EmptyState } from "../kit/EmptyState";
import { Problem } from "../kit/Problem";
import type { ReactNode } from "react";
import type { Schemas } from "../api/client";
import { TextInput } from "../kit/inputs";
import { dayText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";
import { Count, Counts } from "./Count";

const WEEKS_SHOWN = 6;

/** The days that stand out, what is not on any day, and what it means for the help desk. */
export function InNumbers({
  forecast,
  calls,
  wrong,
  onCalls,
  lengths,
  children,
}: {
  forecast: Schemas["ExpiryForecast"];
  calls: string;
  wrong: string | undefined;
  onCalls: (calls: string) => void;
  /** What is known of how long they are. */
  lengths: ReactNode;
  /** What is to be done about those that end at once. */
  children: ReactNode;
}) {
  const { bunches, ended, ended_live } = forecast;
  const more = ended_live === null ? 0 : ended - ended_live;
  const beside = [
    ["have ended already", ended],
    ["have to be changed at the next sign-in", forecast.to_change],
    ["never end", forecast.never],
    ["are of unknown age", forecast.unknown],
  ] as const;
  return (
    <div className="space-y-4 px-4 py-3 small:px-0">
      <section aria-label="Days that stand out">
        <PartHead level={2}>Days that stand out</PartHead>
        {bunches.length === 0 ? (
          <EmptyState>None: passwords end evenly.</EmptyState>
        ) : (
          <ul>
            {bunches.map((one) => (
              <li key={one.day} className="border-b border-line/60 py-1">
                <b className="font-medium">
                  {one.many.toLocaleString("en")} on {dayText(`${one.date}T12:00`)}
                </b>
                <span className="block text-soft">{one.told}</span>
              </li>
            ))}
          </ul>
        )}
      </section>
      <section aria-label="On no day">
        <PartHead level={2}>On no day</PartHead>
        {more > 0 && (
          <p className="py-1 text-warn">
            △ {more.toLocaleString("en")} more would have ended the moment the draft is published.
          </p>
        )}
        <Counts counts={beside} />
      </section>
      {children}
      <section aria-label="Help desk">
        <PartHead level={2}>Help desk</PartHead>
        <label className="flex flex-wrap items-center gap-1.5 py-1">
          Of a hundred that end,
          <TextInput
            className="w-14 text-right"
            inputMode="decimal"
            placeholder="10"
            maxLength={5}
            aria-invalid={wrong !== undefined}
            value={calls}
            onChange={(event) => onCalls(event.target.value)}
          />
          bring a call
        </label>
        <Problem>{wrong}</Problem>
        <ol aria-label="Calls by week">
          {forecast.calls.slice(0, WEEKS_SHOWN).map((many, week) => (
            <Count key={week} many={Math.round(many)}>
              {week === 0 ? "in the next seven days" : `in week ${week + 1}`}
            </Count>
          ))}
        </ol>
      </section>
      {lengths}
    </div>
  );
}
