import { useState } from "react";
import { Link } from "react-router";
import { useStopSpread, type SpreadInfo } from "../api/spreads";
import { at, domainOf, placeOf } from "../draft/place";
import { announce } from "../shared/announce";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { dayText } from "../shared/moments";
import { ReasonForm } from "../kit/ReasonForm";
import { Waves } from "./Waves";

/** How far a spread is, and the way to stop it. */
export function UnderWay({
  place,
  spread,
  may,
}: {
  place: string;
  spread: SpreadInfo;
  /** Whether it may be stopped. */
  may: boolean;
}) {
  const stop = useStopSpread(place);
  const [asked, setAsked] = useState(false);
  const draft = (
    <Link className="underline" to={`/${at(placeOf(domainOf(place), spread.draft))}/changes`}>
      {spread.title}
    </Link>
  );
  const ends = dayText(`${spread.ends}T12:00`);
  return (
    <div className="space-y-1">
      <p>
        {spread.state === "running" && (
          <>
            Under way for {draft}, begun by {spread.by}. It can be published on {ends}.
          </>
        )}
        {spread.state === "done" && (
          <>
            {spread.directory === "waits"
              ? "All change records are written"
              : "All accounts were required to change their password"}{" "}
            for {draft}. It can be published from {ends} on.
          </>
        )}
        {spread.state === "stopped" && <>The last one, for {draft}, was stopped.</>}
      </p>
      {spread.state === "running" && spread.directory === "waits" && (
        <p className="text-warn">
          △ No directory is connected: each week’s change record waits in the history.
        </p>
      )}
      <Waves place={place} waves={spread.waves} waits={spread.directory === "waits"} />
      {may && spread.state === "running" && !asked && (
        <Button onClick={() => setAsked(true)}>Stop it …</Button>
      )}
      {asked && spread.state === "running" && (
        <ReasonForm
          act="Stop it"
          busy={stop.isPending}
          onAct={(reason) =>
            stop.mutate(
              { spread: spread.id, reason },
              {
                onSuccess: () => {
                  announce("It is stopped.");
                  setAsked(false);
                },
              },
            )
          }
          onKeep={() => {
            stop.reset();
            setAsked(false);
          }}
        >
          Nobody more is told. Whoever was told has to choose another password all the same.
        </ReasonForm>
      )}
      <Refusal error={stop.error} />
    </div>
  );
}
