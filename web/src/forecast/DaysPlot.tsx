import { useId, type RefObject } from "react";
import type { Schemas } from "../api/client";
import { PlotFrame } from "../kit/plot/PlotFrame";
import { stepOf } from "../kit/plot/steps";
import { dayText } from "../shared/moments";

type Forecast = Schemas["ExpiryForecast"];

const LEFT = 52;
const RIGHT = 12;
const TOP = 22;
const BOTTOM = 40;
const DAY = 86_400_000;
const NAMED_APART = 90;

/** Bars of days, one policy upon the other; live as a line. */
export function DaysPlot({
  forecast,
  width,
  height,
  drawing,
}: {
  forecast: Forecast;
  width: number;
  height: number;
  drawing: RefObject<SVGSVGElement | null>;
}) {
  const id = useId();
  const { days, policies, live, bunches } = forecast;
  const begins = Date.parse(forecast.begins);
  const sums = Array.from({ length: days }, (_, day) =>
    policies.reduce((before, one) => before + (one.counts[day] ?? 0), 0),
  );
  const most = Math.max(1, ...sums, ...(live ?? []));
  const bottom = height - BOTTOM;
  const x = (day: number) => LEFT + (day / days) * (width - LEFT - RIGHT);
  const y = (many: number) => bottom - (many / most) * (bottom - TOP);
  const step = stepOf(most);
  const left = Array.from({ length: Math.floor(most / step) + 1 }, (_, n) => n * step);
  const every = Math.max(7, Math.ceil(days / Math.max(2, (width - LEFT) / 110) / 7) * 7);
  const dates = Array.from({ length: Math.ceil(days / every) }, (_, n) => n * every);
  const room = x(1) - x(0);
  const bar = room > 4 ? room - 1 : room;
  const date = (day: number) => dayText(new Date(begins + day * DAY + DAY / 2).toISOString());
  const short = (day: number) => date(day).replace(/ \d{4}$/, "");
  const path = live
    ?.map((many, day) => `${day ? "L" : "M"}${x(day)} ${y(many)}H${x(day + 1)}`)
    .join("");
  // Of days close together the largest is named, above all of them.
  const named = [...bunches]
    .sort((a, b) => b.many - a.many)
    .filter(
      (one, number, all) =>
        !all.slice(0, number).some((other) => Math.abs(x(one.day) - x(other.day)) < NAMED_APART),
    );
  const highestAround = (day: number) =>
    sums.reduce(
      (highest, sum, other) =>
        Math.abs(x(day) - x(other)) < NAMED_APART / 2
          ? Math.max(highest, sum, live?.[other] ?? 0)
          : highest,
      0,
    );
  const told = bunches.length
    ? bunches.map((one) => `${one.many} on ${date(one.day)}, ${one.told}`).join("; ")
    : "no day stands out";
  return (
    <PlotFrame
      drawing={drawing}
      width={width}
      height={height}
      box={{ left: LEFT, right: width - RIGHT, top: TOP, bottom }}
      plane={false}
      label={`Passwords that end within ${days} days: ${told}`}
      textures={policies.map((one, number) => ({ id: `${id}${number}`, mark: one.mark }))}
      left={{
        title: "passwords that end",
        ticks: left.map((many) => ({ at: y(many), label: many.toLocaleString("en") })),
      }}
      bottom={{ title: "day", ticks: dates.map((day) => ({ at: x(day), label: short(day) })) }}
    >
      {sums.map((sum, day) => {
        const heights = policies.map((one) => one.counts[day] ?? 0);
        return (
          sum > 0 && (
            <g key={day}>
              <title>{`${date(day)}: ${sum.toLocaleString("en")}`}</title>
              {policies.map((one, number) => {
                const below = heights.slice(0, number).reduce((a, b) => a + b, 0);
                const many = heights[number] ?? 0;
                return (
                  many > 0 && (
                    <rect
                      key={one.policy}
                      x={x(day)}
                      y={y(below + many)}
                      width={bar}
                      height={y(below) - y(below + many)}
                      fill={`url(#${id}${number})`}
                      stroke="var(--color-ink)"
                      strokeWidth="0.4"
                    />
                  )
                );
              })}
            </g>
          )
        );
      })}
      {path && <path d={path} fill="none" stroke="var(--color-ink)" strokeWidth="1.5" />}
      {named.map((one) => (
        <text
          key={one.day}
          x={Math.min(Math.max(x(one.day + 0.5), LEFT + 40), width - RIGHT - 40)}
          y={y(highestAround(one.day)) - 5}
          textAnchor="middle"
          fill="var(--color-ink)"
          className="font-semibold"
        >
          {one.many.toLocaleString("en")} on {short(one.day)}
        </text>
      ))}
    </PlotFrame>
  );
}
