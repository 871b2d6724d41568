import { useRef } from "react";
import { useParams } from "react-router";
import { ApiError, type Schemas } from "../api/client";
import { burdenFile, useBurden } from "../api/forecast";
import { Beside } from "../kit/SidePanel";
import { Refusal } from "../kit/Alert";
import { Failure, Loading } from "../kit/Loading";
import { useWidth } from "../kit/plot/useWidth";
import { PolicyTag } from "../kit/Swatch";
import { useAddress, useUrlState } from "../shared/useUrlState";
import { Assumptions, assumedIn, HABITS } from "./Assumptions";
import { BurdenPlot, letterOf } from "./BurdenPlot";
import { BurdenTable } from "./BurdenTable";
import { Figures } from "./Figures";
import { ForecastFrame } from "./ForecastFrame";
import { UnderWhich } from "./UnderWhich";
import { WhichGuesser } from "./WhichGuesser";

/** What each policy leaves a guesser, against what it costs the people under it. */
export function BurdenScreen() {
  const { domain = "" } = useParams();
  const [params, change] = useAddress();
  const [policy] = useUrlState("policy");
  const [given] = useUrlState("plane");
  const [as] = useUrlState("as");
  const plane = given === "window" ? "window" : "duration";
  const about = policy || "domain";
  const assumed = assumedIn(params, HABITS);
  const { data, error, refetch, isPlaceholderData } = useBurden(domain, about, plane, assumed);
  const [ref, width] = useWidth();
  const drawing = useRef<SVGSVGElement>(null);
  // What is wrong with a field is said below it.
  const named = error instanceof ApiError && error.fields.length > 0;
  const stale = error || isPlaceholderData ? "opacity-40" : "";
  return (
    <ForecastFrame
      label="Guess and burden"
      room={ref}
      shown={{
        name: "burden",
        drawing,
        there: data !== undefined,
        file: burdenFile(domain, about, plane, assumed),
      }}
      choices={
        <>
          <UnderWhich domain={domain} />
          <WhichGuesser />
        </>
      }
    >
      <p className="text-soft">
        {plane === "duration"
          ? "Tries of a guesser who lets the account lock,"
          : "Tries of a guesser who stays under the lock,"}{" "}
        within the life of a password, against the minutes a year that one person gives for it.
        Lower and further left is better for everybody.
      </p>
      {error && data && !named && <Refusal error={error} />}
      {error && !data && !named ? (
        <Failure error={error} retry={() => void refetch()} />
      ) : !data ? (
        !error && <Loading what="the forecast" />
      ) : as === "table" ? (
        <BurdenTable forecast={data} />
      ) : (
        width > 0 && (
          <div className={stale}>
            <BurdenPlot
              forecast={data}
              width={Math.max(280, width - 32)}
              height={Math.max(300, Math.min(520, window.innerHeight - 310))}
              drawing={drawing}
            />
          </div>
        )
      )}
      {data && as !== "table" && <Legend forecast={data} />}
      <Beside>
        <div className="space-y-4 px-4 py-3 small:px-0">
          {data && (
            <div className={stale}>
              <Figures what="What it costs a person" of={data} />
            </div>
          )}
          <Assumptions
            fields={HABITS}
            assumed={assumed}
            error={error}
            onChange={(key, value) => change({ [key]: value }, true)}
          />
        </div>
      </Beside>
    </ForecastFrame>
  );
}

/** Which texture is which policy, and what the other marks and the lines are. */
function Legend({ forecast }: { forecast: Schemas["BurdenForecast"] }) {
  const { marks, met, policy_name } = forecast;
  const wanted = marks.filter((mark) => mark.kind === "baseline");
  return (
    <div className="space-y-0.5 text-xs text-soft">
      <ul aria-label="Marks" className="flex flex-wrap gap-x-4 gap-y-0.5">
        {marks
          .filter((mark) => mark.kind === "policy")
          .map((mark) => (
            <li key={mark.key} className="min-w-0">
              <PolicyTag mark={mark.mark} name={mark.name} />
            </li>
          ))}
        {marks.some((mark) => mark.kind === "live") && <li>dashed: as it is live</li>}
      </ul>
      <p>
        Lines: {policy_name} with another maximum age (solid) or lockout threshold (dotted), all
        else as it is.
        {wanted.length > 0 &&
          ` Rings: ${policy_name} as wanted by ${wanted
            .map((mark) => `${letterOf(marks, mark)} ${mark.name}`)
            .join(", ")}.`}
        {met.length > 0 && ` Nothing else is wanted by ${met.join(", ")}.`}
      </p>
    </div>
  );
}
