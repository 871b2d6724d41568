import { EmptyState } from "../kit/EmptyState";
import { useParams } from "react-router";
import { useSetLifetimes, type Lifetimes } from "../api/gate";
import { at } from "../draft/place";
import { Alert, Refusal } from "../kit/Alert";
import { Choices } from "../kit/Choices";
import { TextInput } from "../kit/inputs";
import { useForm } from "../kit/form/useForm";
import { MayChange } from "../shared/May";
import { dayText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";
import { plural } from "../shared/span";
import { WaitsForSecond } from "../kit/WaitsForSecond";
import { ReasonForm } from "../kit/ReasonForm";

const DAYS_SHOWN = 5;

/** The day of the server's, whatever the reader's zone. */
const dayOf = (day: string) => dayText(`${day}T12:00`);

/** What is chosen otherwise than it is held; null where it is as it is held. */
interface Typed {
  enforced: boolean | null;
  spared: string | null;
}

const START: Typed = { enforced: null, spared: null };

/** Passwords that end by the length bands of additions, and whether they have to be changed then. */
export function LifetimesPart({ domain, lifetimes }: { domain: string; lifetimes: Lifetimes }) {
  const { banded, from_gate, due, coming, enforced, possible } = lifetimes;
  const set = useSetLifetimes(domain);
  const { domain: place = "-" } = useParams();
  const work = {
    place,
    about: `lifetimes of ${domain}`,
    label: "Whose passwords end by their length",
    to: `/${at(place)}/sources?gate=${encodeURIComponent(domain)}`,
  };
  const form = useForm<Typed>({ work, start: START, writes: [set] });
  const typed = form.value;
  const held = lifetimes.spared.join(", ");
  const names = typed.spared ?? held;
  const wanted = typed.enforced ?? enforced;
  const next = coming
    .slice(0, DAYS_SHOWN)
    .map((one) => `${dayOf(one.day)}: ${one.accounts.toLocaleString("en")}`);
  const later = coming.slice(DAYS_SHOWN).reduce((before, one) => before + one.accounts, 0);
  const more = later ? [`later within four weeks: ${later.toLocaleString("en")}`] : [];
  return (
    <section aria-label="Lifetimes by length">
      <PartHead>Lifetimes by length</PartHead>
      {banded === 0 && !enforced ? (
        <EmptyState>
          No policy lets passwords live by their length, or nobody is under one.
        </EmptyState>
      ) : (
        <>
          <p className="py-1">
            {plural(banded, "password")} {banded === 1 ? "ends" : "end"} by a band. Of{" "}
            {from_gate.toLocaleString("en")} the gate knows the day; the others were set elsewhere
            and are taken for the shortest band.
          </p>
          <p>
            {due > 0 && (
              <span className="text-warn">
                △ {due.toLocaleString("en")} of them {due === 1 ? "has" : "have"} come to their day
                already.{" "}
              </span>
            )}
            {coming.length > 0 && `Next: ${[...next, ...more].join(" · ")}.`}
          </p>
        </>
      )}
      <WaitsForSecond on={lifetimes.waits} />
      {(banded > 0 || enforced) && (
        <MayChange right="settings" at={domain}>
          <div className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1">
            <span>On its day a password</span>
            <Choices
              label="On its day a password"
              value={wanted ? "change" : "show"}
              onChange={(choice) =>
                form.change({ enforced: (choice === "change") === enforced ? null : !enforced })
              }
              choices={[
                { value: "show", label: "is only shown" },
                { value: "change", label: "has to be changed" },
              ]}
            />
          </div>
          <label className="mt-1 block">
            <span className="text-xs text-soft">
              Never for the built-in administrator, the accounts that Hornfels signs in with, and
            </span>
            <TextInput
              className="block w-full"
              placeholder="no others (names of accounts, with commas)"
              value={names}
              onChange={(event) =>
                form.change({ spared: event.target.value === held ? null : event.target.value })
              }
            />
          </label>
        </MayChange>
      )}
      {!possible && banded > 0 && (
        <p className={`mt-1 text-xs ${typed.enforced ? "text-warn" : "text-soft"}`}>
          {typed.enforced && "△ "}To have them changed, the directory has to be connected with an
          account that writes.
        </p>
      )}
      {(wanted !== enforced || names !== held) && (possible || !wanted) && (
        <ReasonForm
          act={wanted ? "Have them changed" : "Save"}
          busy={set.isPending}
          onAct={(reason) =>
            set.mutate(
              {
                enforced: wanted,
                spared: names
                  .split(",")
                  .map((one) => one.trim())
                  .filter(Boolean),
                reason,
              },
              { onSuccess: () => form.saved(typed) },
            )
          }
          onKeep={form.reset}
        >
          {wanted && !enforced
            ? `${plural(due, "account")} would have to choose another password at the next sign-in at once, the others on their day. Save it only when they know.`
            : wanted
              ? "It is saved for all days to come."
              : "Days stay shown; nobody has to change anything."}
        </ReasonForm>
      )}
      <Refusal error={set.error} />
      {lifetimes.told && (
        <Alert>
          <span className="text-soft">Last time:</span> {lifetimes.told}
        </Alert>
      )}
    </section>
  );
}
