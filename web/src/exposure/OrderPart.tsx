import type { Schemas } from "../api/client";
import { useSetOrder, type Exposure, type PolicyExposure } from "../api/exposure";
import { at } from "../draft/place";
import { Choices, Refused } from "../shared/controls";
import { TextInput } from "../shared/fields";
import { useKept } from "../shared/kept";
import { MayChange } from "../shared/May";
import { PartHead } from "../shared/PartHead";
import { WhyForm } from "../shared/WhyForm";

type Consequence = Schemas["ExposureOrder"]["consequence"];

interface Typed {
  consequence: Consequence | null;
  days: string | null;
  standing: boolean | null;
}

/** Nothing is chosen otherwise than it is. */
const START: Typed = { consequence: null, days: null, standing: null };
const blank = (typed: Typed) => Object.values(typed).every((value) => value === null);

interface Props {
  domain: string;
  exposure: Exposure;
  policy: PolicyExposure;
}

/** What becomes of those under a policy whose passwords others know. */
export function OrderPart({ domain, exposure, policy }: Props) {
  const set = useSetOrder(domain, policy.policy);
  const held = policy.order;
  const work = {
    place: domain,
    about: `order ${policy.policy}`,
    label: `What becomes of those under ${policy.policy_name}`,
    to: `/${at(domain)}/exposure?under=${policy.policy}`,
  };
  const [typed, setTyped, forget] = useKept<Typed>(work, START, blank);
  const change = (part: Partial<Typed>) => {
    if (set.isError) set.reset();
    setTyped({ ...typed, ...part });
  };
  const consequence = typed.consequence ?? held.consequence;
  const days = typed.days ?? String(held.days || 14);
  const standing = typed.standing ?? held.standing;
  const number = /^\d{1,3}$/.test(days.trim()) ? Number(days) : 0;
  const within = consequence === "within";
  const wrong = within && (number < 1 || number > 365);
  const differs =
    consequence !== held.consequence ||
    (within && number !== held.days) ||
    (consequence !== "note" && standing !== held.standing);
  return (
    <section aria-label="What becomes of them">
      <PartHead>What becomes of them</PartHead>
      <MayChange right="settings" at={domain}>
        <div className="flex flex-wrap items-center gap-2 pt-1">
          <Choices
            label="What becomes of them"
            value={consequence}
            onChange={(value) => change({ consequence: value })}
            choices={[
              { value: "note", label: "noted" },
              { value: "now", label: "changed at once" },
              { value: "within", label: "changed within" },
            ]}
          />
          {within && (
            <label className="flex items-center gap-1.5">
              <TextInput
                aria-label="Days"
                aria-invalid={wrong}
                inputMode="numeric"
                autoComplete="off"
                maxLength={3}
                className="w-14 text-right font-mono"
                value={days}
                onChange={(event) => change({ days: event.target.value })}
              />
              days
            </label>
          )}
        </div>
        {consequence !== "note" && (
          <label className="flex h-7 items-center gap-1.5">
            <input
              type="checkbox"
              checked={standing}
              disabled={!exposure.possible && !standing}
              onChange={(event) => change({ standing: event.target.checked })}
            />
            by itself, without anybody’s word
          </label>
        )}
      </MayChange>
      {consequence !== "note" && !exposure.possible && (
        <p className="text-xs text-soft">
          No directory is connected with an account that writes: whoever confirms gets change
          records in the history.
        </p>
      )}
      <p role="alert" className="min-h-[17px] text-xs text-fail">
        {wrong && "✕ Between 1 and 365 days."}
      </p>
      {differs && !wrong && (
        <WhyForm
          act="Save"
          busy={set.isPending}
          onAct={(reason) =>
            set.mutate(
              { consequence, days: within ? number : 0, standing, reason },
              { onSuccess: () => forget(typed) },
            )
          }
          onKeep={() => {
            set.reset();
            forget();
          }}
        >
          {consequence === "note"
            ? "They are only noted; nobody has to do anything."
            : standing
              ? "From the next comparison on they have to choose another password at the next sign-in, by itself."
              : "They are due then, and wait for somebody to confirm it."}
        </WhyForm>
      )}
      <Refused error={set.error} />
      <p className="text-xs text-soft">
        Never the built-in administrator, accounts whose passwords never expire, those that Hornfels
        signs in with
        {exposure.spared.length > 0 && `, and ${exposure.spared.join(", ")}`}. More of them can be
        named under Sources, Gate.
      </p>
    </section>
  );
}
