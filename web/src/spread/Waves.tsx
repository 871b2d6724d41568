import { Fragment } from "react";
import { unlockingFile } from "../api/locks";
import type { Wave } from "../api/spreads";
import { ButtonLink } from "../kit/Button";
import { dayText } from "../shared/moments";

const RISKS = [
  ["exposed", "known to others"],
  ["shared", "sharing one"],
  ["privileged", "administering"],
] as const;
const STATES = { waiting: "", begun: "…", done: "✓" } as const;

const sum = (wave: Wave) => Object.values(wave.told).reduce((before, many) => before + many, 0);

/** The weeks, each with who is told in it, and those that end by themselves. */
export function Waves({
  place,
  waves,
  waits = false,
}: {
  place: string;
  waves: Wave[];
  /** No directory is connected: change records are carried out by other means. */
  waits?: boolean;
}) {
  const most = Math.max(1, ...waves.map((wave) => sum(wave) + wave.by_themselves));
  const part = (many: number) => `${(100 * many) / most}%`;
  return (
    <table aria-label="Week by week" className="w-full border-collapse text-left text-xs">
      <thead>
        <tr className="border-b border-line text-soft">
          <th scope="col" className="font-normal">
            Week from
          </th>
          <th scope="col" className="px-2 text-right font-normal">
            Told
          </th>
          <th scope="col" className="px-2 text-right font-normal">
            End anyway
          </th>
          <td />
        </tr>
      </thead>
      <tbody>
        {waves.map((wave) => {
          const risky = RISKS.flatMap(([risk, words]) => {
            const many = wave.told[risk] ?? 0;
            return many > 0 ? [`${many.toLocaleString("en")} ${words}`] : [];
          });
          return (
            <Fragment key={wave.begins}>
              <tr className="border-t border-line/60 align-top">
                <th scope="row" className="py-1 font-medium">
                  {dayText(`${wave.begins}T12:00`)} {STATES[wave.state]}
                  <span className="block font-normal text-soft">
                    {wave.said || risky.join(", ")}
                  </span>
                </th>
                <td className="px-2 py-1 text-right font-mono">{sum(wave).toLocaleString("en")}</td>
                <td className="px-2 py-1 text-right font-mono">
                  {wave.by_themselves.toLocaleString("en")}
                </td>
                <td className="w-16 py-1.5" aria-hidden>
                  <span className="flex h-3 w-16 bg-line/40">
                    <span className="bg-ink" style={{ width: part(sum(wave)) }} />
                    <span className="bg-soft/50" style={{ width: part(wave.by_themselves) }} />
                  </span>
                </td>
              </tr>
              {wave.said && (
                <tr>
                  <td colSpan={4} className="pb-1 text-soft">
                    {wave.said}{" "}
                    {waits && wave.point !== null && (
                      <ButtonLink size="small" href={unlockingFile(place, wave.point)} download>
                        Change record (LDIF)
                      </ButtonLink>
                    )}
                  </td>
                </tr>
              )}
            </Fragment>
          );
        })}
      </tbody>
    </table>
  );
}
