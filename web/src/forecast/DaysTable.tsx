import type { Schemas } from "../api/client";
import { dayText } from "../shared/moments";
import { Swatch } from "../kit/Swatch";

const DAY = 86_400_000;

/** The days on which anything ends, for those who read numbers. */
export function DaysTable({ forecast }: { forecast: Schemas["ExpiryForecast"] }) {
  const { policies, live } = forecast;
  const begins = Date.parse(forecast.begins);
  const days = Array.from({ length: forecast.days }, (_, day) => ({
    day,
    sum: policies.reduce((before, one) => before + (one.counts[day] ?? 0), 0),
  })).filter(({ day, sum }) => sum > 0 || (live?.[day] ?? 0) > 0);
  return (
    <table aria-label="Days in numbers" className="border-collapse text-left">
      <thead>
        <tr className="border-b border-line text-soft">
          <th scope="col" className="pr-4 font-normal">
            Day
          </th>
          <th scope="col" className="pr-4 text-right font-normal">
            All
          </th>
          {live && (
            <th scope="col" className="pr-4 text-right font-normal">
              Live
            </th>
          )}
          {policies.map((one) => (
            <th key={one.policy} scope="col" className="pr-4 text-right font-normal">
              <Swatch mark={one.mark} size={12} /> {one.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {days.map(({ day, sum }) => (
          <tr key={day} className="border-b border-line/60">
            <th scope="row" className="pr-4 font-normal whitespace-nowrap">
              {dayText(new Date(begins + day * DAY + DAY / 2).toISOString())}
            </th>
            <td className="pr-4 text-right font-mono">{sum.toLocaleString("en")}</td>
            {live && (
              <td className="pr-4 text-right font-mono">{(live[day] ?? 0).toLocaleString("en")}</td>
            )}
            {policies.map((one) => (
              <td key={one.policy} className="pr-4 text-right font-mono">
                {one.counts[day] ? one.counts[day].toLocaleString("en") : "–"}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
