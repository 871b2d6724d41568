import { useState } from "react";
import type { Schemas } from "../api/client";
import { useOwnVerdict } from "../api/you";
import { Needs, Told } from "../card/Needs";
import { BandScale } from "./BandScale";
import { ChangeForm } from "./ChangeForm";
import { HowItStands } from "./HowItStands";

const NOTHING = { present: "", fresh: "" };

/** How somebody's password stands, what another one needs, and the way to it. */
export function OwnPassword({ you }: { you: Schemas["OwnInfo"] }) {
  const [typed, setTyped] = useState(NOTHING);
  const { answer, stale, error } = useOwnVerdict(typed.fresh, typed.present);
  // A tick belongs to the candidate beside it: while that is asked about, there is none.
  const verdict = stale ? null : answer;
  return (
    <div className="grid items-start gap-x-10 gap-y-5 md:grid-cols-2">
      <div className="min-w-0">
        <HowItStands you={you} />
        <section aria-label="What a new password needs">
          <h2 className="mb-1 text-[17px]">A new password must</h2>
          <Needs must={you.must} ways={you.ways} ticks={verdict?.ticks ?? null} />
        </section>
        {you.bands.length > 0 && <BandScale bands={you.bands} reached={verdict?.band ?? null} />}
      </div>
      <div className="min-w-0 md:row-span-2">
        <ChangeForm
          you={you}
          typed={typed}
          onType={setTyped}
          onChanged={() => setTyped(NOTHING)}
          verdict={verdict}
          error={error}
        />
      </div>
      <div className="min-w-0">
        <Told title="If it is refused all the same" lines={you.refusals} />
        <Told title="Afterwards" lines={you.later} />
      </div>
    </div>
  );
}
