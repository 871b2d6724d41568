import { Problem } from "../kit/Problem";
import type { Schemas } from "../api/client";
import { useSetOrder, type Exposure, type PolicyExposure } from "../api/exposure";
import { at } from "../draft/place";
import { Refusal } from "../kit/Alert";
import { Choices } from "../kit/Choices";
import { TextInput } from "../kit/inputs";
import { useForm } from "../kit/form/useForm";
import { MayChange } from "../shared/May";
import { PartHead } from "../kit/PartHead";
import { ReasonForm } from "../kit/ReasonForm";

type Consequence = Schemas["ExposureOrder"]["consequence"];

interface Typed {
  consequence: Consequence | null;
  days: string | null;
  standing: boolean | null;
}

/** Nothing is chosen otherwise than it is. */
const START: Typed = { consequence: null, days: null, standing: null };

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
  const form = useForm<Typed>({ work, start: START, writes: [set] });
  const { value: typed, change } = form;
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
      <Problem reserved>{wrong && "Between 1 and 365 days."}</Problem>
      {differs && !wrong && (
        <ReasonForm
          act="Save"
          busy={set.isPending}
          onAct={(reason) =>
            set.mutate(
              { consequence, days: within ? number : 0, standing, reason },
              { onSuccess: () => form.saved(typed) },
            )
          }
          onKeep={form.reset}
        >
          {consequence === "note"
            ? "They are only noted; nobody has to do anything."
            : standing
              ? "From the next comparison on they have to choose another password at the next sign-in, by itself."
              : "They are due then, and wait for somebody to confirm it."}
        </ReasonForm>
      )}
      <Refusal error={set.error} />
      <p className="text-xs text-soft">
        Never the built-in administrator, accounts whose passwords never expire, those that Hornfels
        signs in with
        {exposure.spared.length > 0 && `, and ${exposure.spared.join(", ")}`}. More of them can be
        named under Sources, Gate.
      </p>
    </section>
  );
}
