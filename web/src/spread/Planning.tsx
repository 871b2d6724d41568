import { Problem } from "../kit/Problem";
import { useState } from "react";
import { ApiError } from "../api/client";
import { useBeginSpread, useSpreadPlan } from "../api/spreads";
import { announce } from "../shared/announce";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Loading } from "../kit/Loading";
import { TextInput } from "../kit/inputs";
import { MomentField } from "../kit/MomentField";
import { dayText, localDay } from "../shared/moments";
import { plural } from "../shared/span";
import { ReasonForm } from "../kit/ReasonForm";
import { Waves } from "./Waves";

const DAY = 86_400_000;

/** Over how many weeks, from when on, and who would be told when. */
export function Planning({
  place,
  weeks,
  may,
  onWeeks,
  onClose,
}: {
  place: string;
  weeks: string;
  /** Whether it may be begun. */
  may: boolean;
  onWeeks: (weeks: string) => void;
  onClose: () => void;
}) {
  const [begins, setBegins] = useState(() => new Date(Date.now() + DAY).toISOString());
  const [typed, type] = useState(weeks);
  const [asked, setAsked] = useState(false);
  const plan = useSpreadPlan(place, weeks, begins ? localDay(begins) : "");
  const begin = useBeginSpread(place);
  const error = plan.error;
  const fields = error instanceof ApiError ? error.fields : [];
  const wrong = (name: string) => fields.find(({ field }) => field.endsWith(name))?.message;
  const changed = () => {
    begin.reset();
    setAsked(false);
  };
  // What is begun is what is seen, never what was asked before it.
  const current = typed === weeks && !plan.isPlaceholderData && !error;
  const seen = current ? plan.data : undefined;
  return (
    <div className="space-y-2">
      <div className="flex flex-wrap items-start gap-x-1.5 gap-y-1">
        <label className="flex items-center gap-1.5">
          over
          <TextInput
            className="w-12 text-right"
            inputMode="numeric"
            maxLength={2}
            aria-invalid={wrong("weeks") !== undefined}
            value={typed}
            onChange={({ target: { value } }) => {
              changed();
              type(value);
              // Emptied, it is still being typed.
              if (value) onWeeks(value);
            }}
          />
          weeks
        </label>
        <span className="pt-1">from</span>
        <MomentField
          label="From"
          dayOnly
          className="w-32"
          value={begins}
          onChange={(iso) => {
            changed();
            setBegins(iso);
          }}
        />
      </div>
      {fields.map(({ field, message }) => (
        <Problem key={field}>{message}</Problem>
      ))}
      {error && fields.length === 0 && <Refusal error={error} />}
      {!plan.data && !error && <Loading what="the plan" />}
      {plan.data && (
        <div className={seen ? "space-y-2" : "space-y-2 opacity-40"}>
          <p>
            {plan.data.at_once > 0
              ? `${plural(plan.data.at_once, "password")} would end at once if the draft were published now. `
              : "No password would end at once if the draft were published now. "}
            {plan.data.told > 0
              ? `So ${plural(plan.data.told, "account")} would be told to choose another one first, those at risk and with the oldest before others, and the draft be published on ${dayText(plan.data.ends)}.`
              : "Nobody has to be told."}
          </p>
          {plan.data.warning && <Alert tone="warn">△ {plan.data.warning}</Alert>}
          {plan.data.told > 0 && <Waves place={place} waves={plan.data.waves} />}
          {plan.data.spared > 0 && (
            <p className="text-soft">
              {plural(plan.data.spared, "account")} that nobody may tell will still end at once.
            </p>
          )}
        </div>
      )}
      {asked && seen ? (
        <ReasonForm
          act="Begin"
          busy={begin.isPending}
          onAct={(reason) =>
            begin.mutate(
              { weeks: Number(weeks), begins: localDay(begins), seen: seen.seen, reason },
              {
                onSuccess: () => {
                  announce("It is under way.");
                  onClose();
                },
              },
            )
          }
          onKeep={changed}
        >
          {`${plural(seen.told, "account")} will have to choose another password at the next sign-in, week by week. It can be stopped; whoever was told by then stays so.`}
        </ReasonForm>
      ) : (
        <div className="flex gap-2">
          {may && (
            <Button tone="main" disabled={!seen || seen.told === 0} onClick={() => setAsked(true)}>
              Have it begun …
            </Button>
          )}
          <Button onClick={onClose}>Leave it</Button>
        </div>
      )}
      <Refusal error={begin.error} />
    </div>
  );
}
