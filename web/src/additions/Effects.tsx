import type { Rule, PathName, useEffects } from "../api/additions";
import type { Schemas } from "../api/client";
import { plural } from "../shared/span";
import { same } from "./editing";

type Effect = Schemas["RuleEffectInfo"];
export type EffectsAnswer = NonNullable<ReturnType<typeof useEffects>["data"]>;

/**
 * The effect of a rule, found by the rule itself: the place of a rule changes while the user types.
 */
const effectOf = (of: EffectsAnswer | undefined, path: PathName, rule: Rule | undefined) =>
  of?.rules.find((one) => one.path === path && rule && same(of.of[path]?.[one.number], rule));

const share = (count: number, of: number) =>
  of === 0 ? "none" : `${((100 * count) / of).toFixed(count > 0 && count * 20 < of ? 1 : 0)} %`;

/**
 * The effect of one rule: the share of refused passwords, and an invented candidate that no other
 * rule refuses.
 */
export function Does({
  of,
  path,
  rule,
}: {
  of: EffectsAnswer | undefined;
  path: PathName;
  rule: Rule | undefined;
}) {
  const effect: Effect | undefined = effectOf(of, path, rule);
  return (
    <p className="min-h-[17px] text-xs break-words text-soft">
      {effect && of && (
        <>
          Refuses {share(effect.refused, of.sample)}
          {effect.refused > 0 &&
            (effect.alone > 0
              ? `, ${share(effect.alone, of.sample)} alone`
              : ", none of them alone")}
          {effect.example === null ? (
            <> · no candidate was found that it alone refuses</>
          ) : (
            <>
              {" "}
              · such as <code className="font-mono text-ink">{effect.example}</code>
              {effect.present !== null && (
                <>
                  {" "}
                  after <code className="font-mono text-ink">{effect.present}</code>
                </>
              )}
              {effect.repair && `: ${effect.repair}`}
            </>
          )}
        </>
      )}
    </p>
  );
}

/** The passwords that a path leaves to a guesser, and the loss against the directory’s own rules. */
function spaceText({ path, length, natively, left, counted }: Schemas["SpaceInfo"]) {
  const bits = (value: number) => `2${raised(Math.floor(value))}`;
  const about = counted ? "" : "about ";
  return `As a ${path} of ${length} characters ${about}${bits(left)} are left of the ${bits(natively)} that the directory’s rules leave of what a keyboard writes${natively - left >= 0.05 ? `: ${(natively - left).toFixed(1)} bits less` : ""}.`;
}

const RAISED = "⁰¹²³⁴⁵⁶⁷⁸⁹";
const raised = (value: number) => [...String(value)].map((c) => RAISED[Number(c)] ?? c).join("");

export function Altogether({
  of,
  sample,
  busy,
}: {
  of?: Schemas["EffectsAnswer"];
  sample: string;
  busy: boolean;
}) {
  if (!of)
    return busy ? (
      <p role="status" className="text-soft">
        Trying passwords as people choose them … A long list of terms takes some seconds the first
        time.
      </p>
    ) : null;
  const whose = sample
    ? `the ${plural(of.sample, "password")} in ${sample}`
    : `${of.sample.toLocaleString("en")} typical passwords, made up`;
  return (
    <p className="text-sm">
      Of {whose}, {share(of.altogether, of.sample)} are refused; the directory’s own rules alone
      refuse {share(of.natively, of.sample)}.{of.space.map((one) => ` ${spaceText(one)}`)}
    </p>
  );
}
