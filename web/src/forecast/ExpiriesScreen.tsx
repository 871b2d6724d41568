import { useRef } from "react";
import { useParams } from "react-router";
import { expiriesFile, useExpiries } from "../api/forecast";
import { ApiError } from "../api/client";
import { Beside } from "../kit/SidePanel";
import { Refusal } from "../kit/Alert";
import { Failure, Loading } from "../kit/Loading";
import { TextInput } from "../kit/inputs";
import { useWidth } from "../kit/plot/useWidth";
import { PolicyTag } from "../kit/Swatch";
import { useUrlState } from "../shared/useUrlState";
import { DaysPlot } from "./DaysPlot";
import { DaysTable } from "./DaysTable";
import { InNumbers } from "./InNumbers";
import { Lengths } from "./Lengths";
import { SpreadPart } from "../spread/SpreadPart";
import { ForecastFrame } from "./ForecastFrame";

/** On which days passwords end, by policy, live and as a draft would have it. */
export function ExpiriesScreen() {
  const { domain = "" } = useParams();
  const [days, setDays] = useUrlState("days");
  const [calls, setCalls] = useUrlState("calls");
  const [as] = useUrlState("as");
  const asked = { ...(days ? { days } : {}), ...(calls ? { calls } : {}) };
  const { data, error, refetch, isPlaceholderData } = useExpiries(domain, asked);
  const [ref, width] = useWidth();
  const drawing = useRef<SVGSVGElement>(null);
  const fields = error instanceof ApiError ? error.fields : [];
  const wrong = (field: string) => fields.find((one) => one.field === field)?.message;
  return (
    <ForecastFrame
      label="Expiries"
      room={ref}
      shown={{
        name: "expiries",
        drawing,
        there: data !== undefined,
        file: expiriesFile(domain, asked),
      }}
      choices={
        <>
          <label className="flex items-center gap-1.5">
            <span className="text-soft">over</span>
            <TextInput
              className="w-14 text-right"
              inputMode="numeric"
              aria-invalid={wrong("days") !== undefined}
              value={days}
              placeholder="90"
              maxLength={4}
              onChange={(event) => setDays(event.target.value)}
            />
            days
          </label>
        </>
      }
    >
      <p className="text-soft">
        Passwords that end on each day (UTC), by the policy that holds.
        {data?.live && " The line is how it is live."}
      </p>
      <Refusal error={wrong("days") ?? null} />
      {error && data && fields.length === 0 && <Refusal error={error} />}
      {error && !data && fields.length === 0 ? (
        <Failure error={error} retry={() => void refetch()} />
      ) : !data ? (
        !error && <Loading what="the forecast" />
      ) : as === "table" ? (
        <DaysTable forecast={data} />
      ) : (
        width > 0 && (
          <div className={error || isPlaceholderData ? "opacity-40" : ""}>
            <DaysPlot
              forecast={data}
              width={Math.max(280, width - 32)}
              height={Math.max(240, Math.min(520, window.innerHeight - 290))}
              drawing={drawing}
            />
          </div>
        )
      )}
      {data && as !== "table" && (
        <ul aria-label="Policies" className="flex flex-wrap gap-x-4 gap-y-0.5 text-xs text-soft">
          {data.policies.map((one) => (
            <li key={one.policy} className="min-w-0">
              <PolicyTag mark={one.mark} name={one.name} />
            </li>
          ))}
        </ul>
      )}
      {data && (
        <Beside>
          <InNumbers
            forecast={data}
            calls={calls}
            wrong={wrong("calls")}
            onCalls={setCalls}
            lengths={<Lengths place={domain} />}
          >
            <SpreadPart place={domain} />
          </InNumbers>
        </Beside>
      )}
    </ForecastFrame>
  );
}
