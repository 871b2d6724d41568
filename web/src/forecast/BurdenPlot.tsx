import { scaleLinear, scaleLog } from "d3-scale";
import { line } from "d3-shape";
import { useId, type Ref } from "react";
import type { Schemas } from "../api/client";
import { PlotFrame } from "../kit/plot/PlotFrame";
import { stepOf } from "../kit/plot/steps";
import { PlotMark } from "./PlotMark";

type Forecast = Schemas["BurdenForecast"];
type Mark = Schemas["BurdenMark"];
/** A place in the plot; no tries where nothing limits them. */
type Point = Pick<Mark, "minutes" | "tries">;
interface Place {
  x: number;
  y: number;
}

const LEFT = 62;
const BOTTOM = 40;
const TOP = 10;
/** Room above for policies under which nothing limits a guesser. */
const BEYOND = 30;
const APART = 17;
/** The most that an axis of tries is divided for. */
const POWERS = 8;

/** The letter that stands for a baseline in the plot and below it. */
export const letterOf = (marks: Mark[], mark: Mark) =>
  String.fromCodePoint(97 + marks.filter((one) => one.kind === "baseline").indexOf(mark));

/** Marks in places of their own: one that would lie on another stands beside it. */
function apart(marks: Mark[], placeOf: (mark: Mark) => Place, right: number) {
  const places = new Map<Mark, Place>();
  for (const mark of marks) {
    const first = placeOf(mark);
    let at = first;
    const taken = ({ x, y }: Place) =>
      [...places.values()].some(
        (one) => Math.abs(one.x - x) < APART && Math.abs(one.y - y) < APART,
      );
    for (let row = 0; taken(at);) {
      if (at.x + APART < right) at = { ...at, x: at.x + APART };
      else at = { x: first.x, y: first.y - APART * ++row };
    }
    places.set(mark, at);
  }
  return places;
}

/** Minutes of people against tries of guessers: each policy, and the courses of one of them. */
export function BurdenPlot({
  forecast,
  width,
  height,
  drawing,
}: {
  forecast: Forecast;
  width: number;
  height: number;
  drawing: Ref<SVGSVGElement>;
}) {
  const id = useId();
  const { marks, courses } = forecast;
  const points = [...marks, ...courses.flatMap((course) => course.points)];
  const right = width - 12;
  const bottom = height - BOTTOM;
  const most = Math.max(1, ...points.map((point) => point.minutes)) * 1.08;
  const powersOf = points.flatMap(({ tries }) => (tries === null ? [] : [Math.log10(tries || 1)]));
  const power = Math.max(1, Math.ceil(Math.max(0, ...powersOf)));
  const least = Math.min(power - 1, Math.floor(Math.min(power, ...powersOf)));
  const x = scaleLinear([0, most], [LEFT, right]);
  const y = scaleLog([10 ** least, 10 ** power], [bottom - 10, TOP + BEYOND]).clamp(true);
  const beyond = TOP + BEYOND / 2;
  const placeOf = (at: Point): Place => ({
    x: x(at.minutes),
    y: at.tries === null ? beyond : y(Math.max(1, at.tries)),
  });
  // What is asked about is drawn last, and where it belongs.
  const isOwn = (mark: Mark) => mark.key === forecast.policy || mark.kind === "baseline";
  const order = [...marks.filter(isOwn), ...marks.filter((mark) => !isOwn(mark))];
  const places = apart(order, placeOf, right);
  const own = marks.find((mark) => mark.kind === "policy" && mark.key === forecast.policy);
  const ownPlace = own && placeOf(own);
  /** What lies under the policy's own mark needs no words. */
  const hidden = (at: Place) =>
    ownPlace && Math.abs(at.x - ownPlace.x) < APART && Math.abs(at.y - ownPlace.y) < APART;
  const draw = line<Point>(
    (point) => placeOf(point).x,
    (point) => placeOf(point).y,
  );
  const step = stepOf(most);
  const every = Math.ceil((power - least) / POWERS);
  const powers = Array.from(
    { length: Math.floor((power - least) / every) + 1 },
    (_, n) => 10 ** (least + n * every),
  );
  return (
    <PlotFrame
      drawing={drawing}
      width={width}
      height={height}
      box={{ left: LEFT, right, top: TOP, bottom }}
      label={`Tries of a guesser against minutes of one person, with the courses of ${forecast.policy_name}`}
      textures={[...new Set(marks.map((mark) => mark.mark))].map((mark) => ({
        id: `${id}${mark}`,
        mark,
      }))}
      bottom={{
        title: "minutes a year, of one person",
        ticks: Array.from({ length: Math.floor(most / step) + 1 }, (_, n) => ({
          at: x(n * step),
          label: (n * step).toLocaleString("en"),
        })),
      }}
      left={{
        title: "tries within a password’s life",
        ticks: [
          ...powers.map((many) => ({ at: y(many), label: many.toLocaleString("en") })),
          ...(points.some((point) => point.tries === null)
            ? [{ at: beyond, label: "no limit" }]
            : []),
        ],
      }}
    >
      {courses.map((course) => (
        <g key={course.varied}>
          <path
            d={draw(course.points) ?? ""}
            fill="none"
            stroke="var(--color-ink)"
            strokeDasharray={course.varied === "threshold" ? "1.5 3" : undefined}
          />
          {course.points.map((point) => {
            const at = placeOf(point);
            return (
              <g key={point.label}>
                <circle cx={at.x} cy={at.y} r="2" />
                {!hidden(at) && (
                  <text
                    x={at.x}
                    y={at.y}
                    dx={course.varied === "age" ? 0 : -7}
                    dy={course.varied === "age" ? 16 : 4}
                    textAnchor={course.varied === "age" ? "middle" : "end"}
                    stroke="var(--color-sheet)"
                    strokeWidth="3"
                    paintOrder="stroke"
                  >
                    {point.label}
                  </text>
                )}
              </g>
            );
          })}
        </g>
      ))}
      {order.toReversed().map((mark) => {
        const at = places.get(mark) ?? placeOf(mark);
        return (
          <g key={`${mark.kind} ${mark.key}`}>
            <PlotMark mark={mark} at={at} fill={`url(#${id}${mark.mark})`} own={mark === own} />
            {mark.kind === "baseline" && (
              <text x={at.x} y={at.y + 3.5} textAnchor="middle">
                {letterOf(marks, mark)}
              </text>
            )}
          </g>
        );
      })}
    </PlotFrame>
  );
}
