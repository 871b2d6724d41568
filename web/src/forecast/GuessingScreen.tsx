import { useRef, useState } from "react";
import { useParams } from "react-router";
import { tradeoffFile, useGuessing, useTradeoff } from "../api/forecast";
import { ApiError, type Schemas } from "../api/client";
import { useMay } from "../api/domains";
import { Beside } from "../kit/SidePanel";
import { Refusal } from "../kit/Alert";
import { Failure, Loading } from "../kit/Loading";
import { useWidth } from "../kit/plot/useWidth";
import { PolicyTag } from "../kit/Swatch";
import { useAddress, useUrlState } from "../shared/useUrlState";
import { ASSUMED, Assumptions, assumedIn, numbersOf } from "./Assumptions";
import { Figures } from "./Figures";
import { MarkBar, useMoved } from "./MarkBar";
import { MarksTable } from "./MarksTable";
import { Plot, type Moving } from "./Plot";
import { ForecastFrame } from "./ForecastFrame";
import { UnderWhich } from "./UnderWhich";
import { WhichGuesser } from "./WhichGuesser";

const HIGHEST = 520;
const LOWEST = 300;

/** What guessing costs under a policy, and how a lockout trades guessers against people. */
export function GuessingScreen() {
  const { domain = "" } = useParams();
  const [params, change] = useAddress();
  const [policy] = useUrlState("policy");
  const [given] = useUrlState("plane");
  const [as] = useUrlState("as");
  const plane = given === "window" ? "window" : "duration";
  const assumed = assumedIn(params, ASSUMED);
  const about = policy || "domain";
  const sheet = useGuessing(domain, about, assumed);
  const tradeoff = useTradeoff(domain, about, plane, assumed);
  const [ref, width] = useWidth();
  const drawing = useRef<SVGSVGElement>(null);
  const [moving, move] = useState<Moving | null>(null);
  const may = useMay(domain);
  const moved = useMoved(domain, plane, numbersOf(assumed), moving, move);

  const failed = sheet.error ?? tradeoff.error;
  // What is wrong with a field is said below it.
  const named = failed instanceof ApiError && failed.fields.length > 0;
  const name = tradeoff.data?.marks.find((mark) => mark.key === moving?.key)?.name ?? "";
  return (
    <ForecastFrame
      label="Trade-off"
      room={ref}
      shown={{
        name: plane,
        drawing,
        there: tradeoff.data !== undefined,
        file: tradeoffFile(domain, about, plane, assumed),
      }}
      choices={
        <>
          <UnderWhich domain={domain} />
          <WhichGuesser onChange={moved.giveUp} />
        </>
      }
    >
      <p className="text-soft">
        {plane === "duration"
          ? "A guesser who lets the account lock and comes back when it opens."
          : "A guesser who stays one try below the threshold and waits for the window to pass."}{" "}
        Dashed lines: the same chance to hit within the life of a password under{" "}
        {tradeoff.data?.policy_name ?? "the policy"}. Drag a policy to try another lockout.
      </p>
      {failed && tradeoff.data && !named && <Refusal error={failed} />}
      {failed && !tradeoff.data ? (
        <Failure error={failed} retry={() => void tradeoff.refetch()} />
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
              <Figures what="What guessing costs" of={sheet.data} about={sheet.data.rule} />
            </div>
          )}
          <Assumptions
            fields={ASSUMED}
            assumed={assumed}
            error={failed}
            onChange={(key, value) => change({ [key]: value }, true)}
          />
        </div>
      </Beside>
    </ForecastFrame>
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
