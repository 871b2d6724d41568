import { useRef, useState } from "react";
import { useParams } from "react-router";
import { tradeoffFile, useGuessing, useTradeoff, type Assumed } from "../api/forecast";
import { ApiError, type Schemas } from "../api/client";
import { useMay, useStrata } from "../api/domains";
import { Beside } from "../app/SidePanel";
import { domainOf } from "../draft/place";
import { Choices, Failed, Loading, Refused } from "../shared/controls";
import { Select } from "../shared/fields";
import { useWidth } from "../shared/plot/useWidth";
import { PolicyTag } from "../shared/Swatch";
import { useTitle } from "../shared/useTitle";
import { useAddress, useUrlState } from "../shared/useUrlState";
import { ASSUMED, Assumptions, numbersOf } from "./Assumptions";
import { GuessingSheet } from "./GuessingSheet";
import { MarkBar, useMoved } from "./MarkBar";
import { MarksTable } from "./MarksTable";
import { Plot, type Moving } from "./Plot";
import { ShownAs } from "./ShownAs";
import { WhichForecast } from "./WhichForecast";

const HIGHEST = 520;
const LOWEST = 300;

/** What guessing costs under a policy, and how a lockout trades guessers against people. */
export function GuessingScreen() {
  const { domain = "" } = useParams();
  const [params, change] = useAddress();
  const [policy, setPolicy] = useUrlState("policy");
  const [given, setPlane] = useUrlState("plane");
  const [as] = useUrlState("as");
  const plane = given === "window" ? "window" : "duration";
  const assumed: Assumed = Object.fromEntries(
    ASSUMED.flatMap(({ key }) => {
      const value = params.get(key);
      return value ? [[key, value]] : [];
    }),
  );
  const about = policy || "domain";
  const strata = useStrata(domain);
  const sheet = useGuessing(domain, about, assumed);
  const tradeoff = useTradeoff(domain, about, plane, assumed);
  const [ref, width] = useWidth();
  const drawing = useRef<SVGSVGElement>(null);
  const [moving, move] = useState<Moving | null>(null);
  const may = useMay(domain);
  const moved = useMoved(domain, plane, numbersOf(assumed), moving, () => move(null));
  useTitle("Forecast", domainOf(domain));

  const failed = sheet.error ?? tradeoff.error;
  // What is wrong with a field is said below it.
  const named = failed instanceof ApiError && failed.fields.length > 0;
  const name = tradeoff.data?.marks.find((mark) => mark.key === moving?.key)?.name ?? "";
  return (
    <div className="flex h-full flex-col small:block small:overflow-auto">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 pt-2.5 pb-2 small:px-2 small:pt-1">
        <h1 className="text-base">Forecast</h1>
        <WhichForecast />
        <label className="flex min-w-0 items-center gap-1.5">
          <span className="shrink-0 text-soft">under</span>
          <Select value={about} onChange={(event) => setPolicy(event.target.value)}>
            <option value="domain">Domain policy</option>
            {strata.data?.layers.map((layer) => (
              <option key={layer.guid} value={layer.guid}>
                {layer.name}
              </option>
            ))}
          </Select>
        </label>
        <Choices
          label="Which guesser"
          value={plane}
          onChange={(next) => {
            moved.giveUp();
            setPlane(next === "window" ? next : "");
          }}
          choices={[
            { value: "duration", label: "Lets it lock" },
            { value: "window", label: "Stays under it" },
          ]}
        />
        <ShownAs
          name={`${domainOf(domain)}-${plane}`}
          drawing={drawing}
          there={tradeoff.data !== undefined}
          file={tradeoffFile(domain, about, plane, assumed)}
        />
      </div>
      <div
        ref={ref}
        tabIndex={0}
        role="group"
        aria-label="Trade-off"
        className="min-h-0 flex-1 space-y-2 overflow-auto px-4 pb-3 small:overflow-visible small:px-2"
      >
        <p className="text-soft">
          {plane === "duration"
            ? "A guesser who lets the account lock and comes back when it opens."
            : "A guesser who stays one try below the threshold and waits for the window to pass."}{" "}
          Dashed lines: the same chance to hit within the life of a password under{" "}
          {tradeoff.data?.policy_name ?? "the policy"}. Drag a policy to try another lockout.
        </p>
        {failed && tradeoff.data && !named && <Refused error={failed} />}
        {failed && !tradeoff.data ? (
          <Failed error={failed} retry={() => void tradeoff.refetch()} />
        ) : !tradeoff.data ? (
          <Loading what="the forecast" />
        ) : as === "table" ? (
          <MarksTable plane={tradeoff.data} />
        ) : (
          width > 0 && (
            <div className={failed || tradeoff.isPlaceholderData ? "opacity-40" : ""}>
              <Plot
                plane={tradeoff.data}
                width={Math.max(280, width - 32)}
                height={Math.max(LOWEST, Math.min(HIGHEST, window.innerHeight - 320))}
                moving={moving}
                onMove={move}
                onSave={() => may("draft") && moved.save()}
                onGiveUp={moved.giveUp}
                drawing={drawing}
              />
            </div>
          )
        )}
        {/* Below the plot, so that what is dragged does not move away from under the pointer. */}
        {moving && <MarkBar name={name} moved={moved} savable={may("draft")} />}
        {tradeoff.data && as !== "table" && <Legend marks={tradeoff.data.marks} />}
        <Beside>
          <div className="space-y-4 px-4 py-3 small:px-0">
            {sheet.data && (
              <div className={failed || sheet.isPlaceholderData ? "opacity-40" : ""}>
                <GuessingSheet sheet={sheet.data} />
              </div>
            )}
            <Assumptions
              assumed={assumed}
              error={failed}
              onChange={(key, value) => change({ [key]: value }, true)}
            />
          </div>
        </Beside>
      </div>
    </div>
  );
}

/** Which texture is which policy, and what the other marks are. */
function Legend({ marks }: { marks: Schemas["PolicyMark"][] }) {
  return (
    <ul aria-label="Marks" className="flex flex-wrap gap-x-4 gap-y-0.5 text-xs text-soft">
      {marks
        .filter((mark) => mark.kind === "policy")
        .map((mark) => (
          <li key={mark.key} className="min-w-0">
            <PolicyTag mark={mark.mark} name={mark.name} />
          </li>
        ))}
      {marks.some((mark) => mark.kind === "live") && <li>dashed: as it is live</li>}
      <li>○ our starting points</li>
      <li>by hand: locked until an operator unlocks</li>
    </ul>
  );
}
