import { EarlierLocks } from "./EarlierLocks";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useAccount } from "../api/accounts";
import { useWeighFlag, useWeighMembership } from "../api/drafts";
import { useMay } from "../api/domains";
import { useExposureOf } from "../api/exposure";
import { KnownToOthers } from "../exposure/KnownToOthers";
import { useCatalogue } from "../api/policies";
import { useAddition } from "../api/additions";
import { AskedBesides } from "../additions/AskedBesides";
import { useBench } from "../bench/BenchProvider";
import { Attributes } from "../editor/Attributes";
import { PanelHead } from "../kit/PanelHead";
import { valueWithUnit, type Value } from "../editor/edits";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { Tick } from "../kit/Tick";
import { lookOf } from "../shared/look";
import { dayText, momentText } from "../shared/moments";
import { awayText, plural } from "../shared/span";
import { Finder } from "../shared/Finder";
import { Swatch } from "../kit/Swatch";
import { at } from "../draft/place";
import { PartHead } from "../kit/PartHead";
import { May } from "../shared/May";
import { MustChange } from "./MustChange";

/**
 * One account's core: the layers that reach it from top to bottom, who wins and why, and what is in
 * force after its flags.
 */
export function AccountCore({
  domain,
  name,
  onClose,
  onCompare,
}: {
  domain: string;
  name: string;
  onClose: () => void;
  onCompare: (other: string) => void;
}) {
  const account = useAccount(domain, name);
  const { add } = useBench();
  // With the account, so that nothing below it moves when it comes.
  const addition = useAddition(domain, account.data?.policy ?? "", account.isSuccess);
  const may = useMay(domain)("exposed");
  const exposure = useExposureOf(domain, name, may);
  if (account.isPending || (account.isSuccess && addition.isPending) || (may && exposure.isPending))
    return <Loading what={name} />;
  if (account.error) {
    return (
      <div>
        <Failure error={account.error} retry={() => void account.refetch()} />
        <Button className="ml-4" onClick={onClose}>
          Close
        </Button>
      </div>
    );
  }
  const core = account.data;
  return (
    <article aria-label={`Core of ${core.name}`}>
      <PanelHead
        mark={core.mark}
        title={core.display_name || core.name}
        detail={core.name}
        onClose={onClose}
      />
      <div className="space-y-4 px-4 pb-4">
        <div className="unprinted flex flex-wrap gap-x-2 gap-y-1">
          <May right="bench" at={domain}>
            <Button onClick={() => add([core.name])}>Put on the bench</Button>
            <Link
              className="inline-flex h-7 items-center underline"
              to={`/${at(domain)}/card?account=${encodeURIComponent(core.name)}`}
            >
              Explain it to them
            </Link>
          </May>
          <Link
            className="inline-flex h-7 items-center underline"
            to={`/${at(domain)}/accounts?population=${core.population}`}
          >
            Its population
          </Link>
          <Link
            className="inline-flex h-7 items-center underline"
            to={`/${at(domain)}/strata?show=${core.population}`}
          >
            in the strata
          </Link>
        </div>
        <p className="break-all text-xs text-soft">{core.dn}</p>
        <May right="unlock" at={domain}>
          <MustChange domain={domain} name={core.name} />
        </May>
        <div>
          <p className="text-[15px] font-semibold">
            {core.policy_name} {core.policy && "wins"}
          </p>
          <p>{core.reason}</p>
        </div>
        {core.locked && (
          <Alert tone="fail">
            <strong>Locked</strong> since {momentText(core.locked_since)},{" "}
            {core.locked_until
              ? `until ${momentText(core.locked_until)}`
              : "until an operator unlocks it"}
            .
          </Alert>
        )}
        <Stack domain={domain} core={core} />
        <InForce core={core} />
        <AskedBesides
          quiet
          domain={domain}
          policy={core.policy}
          open={
            <Link
              className="text-xs underline"
              to={`/${at(domain)}/strata?policy=${core.policy}&besides=1`}
            >
              Open
            </Link>
          }
        />
        <section aria-label="Password">
          <PartHead>Password</PartHead>
          <p className="pt-1">
            {core.password_set
              ? `Set ${momentText(core.password_set)} (${awayText(core.password_set)}).`
              : "When it was set is not known."}{" "}
            {core.expiry === "at" &&
              core.expires_at &&
              `Expires ${momentText(core.expires_at)} (${awayText(core.expires_at)}).`}
            {core.expiry === "now" &&
              (core.expires_at ? `Expired ${momentText(core.expires_at)}.` : core.expiry_reason)}
            {(core.expiry === "never" || core.expiry === "unknown") &&
              `${core.expiry === "never" ? "Never expires: " : ""}${core.expiry_reason}`}
          </p>
          {core.band_end && <BandEnd end={core.band_end} />}
          {exposure.data?.accounts.map((one) => (
            <KnownToOthers key={one.name} domain={domain} one={one} />
          ))}
          {core.bad_count > 0 && <p className="text-soft">Bad tries counted: {core.bad_count}.</p>}
        </section>
        <EarlierLocks domain={domain} name={core.name} />
        {core.flags.length > 0 && (
          <section aria-label="Flags">
            <PartHead>Flags of the account</PartHead>
            <ul>
              {core.flags.map((f) => (
                <li key={f.flag} className="pt-1">
                  <span className="font-medium text-warn">△ {f.flag}.</span> {f.effect}
                </li>
              ))}
            </ul>
          </section>
        )}
        <May right="draft" at={domain}>
          <WhatIf domain={domain} core={core} />
        </May>
        <Attributes domain={domain} kind="accounts" name={core.name} />
        <Finder
          domain={domain}
          kinds={["account"]}
          label="Account to compare with"
          placeholder="Compare with …"
          upwards
          onPick={(hit) => onCompare(hit.name)}
        />
      </div>
    </article>
  );
}

function BandEnd({ end }: { end: NonNullable<Schemas["AccountCore"]["band_end"]> }) {
  return (
    <p>
      Ends {dayText(`${end.day}T12:00`)} by its length
      {end.from_gate
        ? ", as the gate has seen it."
        : ": taken for the shortest band, since it was not set through the gate."}{" "}
      {end.enforced ? "It has to be changed then." : "Nobody enforces that."}
    </p>
  );
}

function Stack({ domain, core }: { domain: string; core: Schemas["AccountCore"] }) {
  return (
    <section aria-label="What reaches it">
      <PartHead>What reaches it, top to bottom</PartHead>
      <ol>
        {core.layers.map((layer) => (
          <li
            key={layer.guid + layer.steps.map((s) => s.dn).join()}
            className="grid grid-cols-[14px_minmax(0,1fr)] gap-2 border-b border-line/60 py-1.5"
          >
            {layer.outcome === "wins" ? (
              <Swatch mark={layer.mark} />
            ) : (
              <span
                aria-hidden
                className="mt-0.5 h-3.5 w-3.5 rounded-[3px] border border-dashed"
                style={{
                  backgroundImage: lookOf(layer.mark).ghost,
                  borderColor: lookOf(layer.mark).ink,
                }}
              />
            )}
            <div>
              <p>
                <Link
                  className="font-medium hover:underline"
                  to={`/${at(domain)}/strata?policy=${layer.guid}`}
                >
                  {layer.name}
                </Link>{" "}
                <span className="font-mono text-xs">{layer.precedence}</span>{" "}
                <span
                  className={`text-xs font-medium ${layer.outcome === "wins" ? "text-pass" : "text-soft"}`}
                >
                  {layer.outcome === "wins"
                    ? "✓ wins"
                    : layer.outcome === "loses"
                      ? "✕ loses"
                      : "– does not count"}
                </span>
              </p>
              <p className="text-xs">{layer.reason}</p>
              <p className="text-xs text-soft">
                {layer.direct ? (
                  layer.outcome !== "wins" && "linked to the account itself"
                ) : (
                  <Steps domain={domain} steps={layer.steps} />
                )}
              </p>
              {layer.steps[0] && !layer.steps[0].primary && (
                <Without domain={domain} member={core.dn} step={layer.steps[0]} />
              )}
              {layer.other_ways.length > 0 && <OtherWays layer={layer} />}
            </div>
          </li>
        ))}
        <li className="grid grid-cols-[14px_minmax(0,1fr)] gap-2 py-1.5">
          <Swatch mark={null} />
          <p>
            <Link
              className="font-medium hover:underline"
              to={`/${at(domain)}/strata?policy=domain`}
            >
              Domain policy
            </Link>{" "}
            <span className={`text-xs font-medium ${core.policy ? "text-soft" : "text-pass"}`}>
              {core.policy ? "covered" : "✓ holds"}
            </span>
          </p>
        </li>
      </ol>
    </section>
  );
}

const FLAGS: [Schemas["WhatIfFlag"]["flag"], string][] = [
  ["DISABLED", "Disabled"],
  ["NEVER_EXPIRES", "Password never expires"],
  ["NO_PASSWORD_REQUIRED", "No password required"],
  ["REVERSIBLE_ENCRYPTION", "Reversible encryption"],
  ["SMART_CARD_REQUIRED", "Smart card required"],
];

/** Another group or flag for the account, weighed in the draft and never published. */
function WhatIf({ domain, core }: { domain: string; core: Schemas["AccountCore"] }) {
  const join = useWeighMembership(domain);
  const flag = useWeighFlag(domain);
  const error = join.error ?? flag.error;
  return (
    <section aria-label="What if">
      <PartHead>What if …</PartHead>
      <p className="py-1 text-xs text-soft">
        Weighed in the draft only: publishing leaves accounts and groups alone.
      </p>
      <Finder
        domain={domain}
        kinds={["group"]}
        label="Group to weigh it in"
        placeholder="it were in the group …"
        upwards
        onPick={(hit) => {
          flag.reset();
          join.mutate({ member: core.dn, group: hit.dn, join: true });
        }}
      />
      <ul className="flex flex-wrap gap-x-3 gap-y-1 pt-1.5">
        {FLAGS.map(([bit, label]) => (
          <li key={bit} className="text-xs">
            <Tick
              label={label}
              checked={core.flags.some((f) => f.flag === label)}
              onChange={(on) => {
                join.reset();
                return flag.mutateAsync({ account: core.name, flag: bit, on });
              }}
            />
          </li>
        ))}
      </ul>
      <Refusal error={error} />
    </section>
  );
}

/** The other equally short ways, opened on demand. */
function OtherWays({ layer }: { layer: Schemas["AccountCore"]["layers"][number] }) {
  const unlisted = layer.alternatives - 1 - layer.other_ways.length;
  return (
    <details className="text-xs text-soft">
      <summary className="cursor-pointer">
        {plural(layer.alternatives - 1, "other way")} as short
      </summary>
      <ul>
        {layer.other_ways.map((way) => (
          <li key={way.join()}>account › {way.join(" › ")}</li>
        ))}
        {unlisted > 0 && <li>and {unlisted.toLocaleString("en")} more</li>}
      </ul>
    </details>
  );
}

/** What if it were taken out of the group that begins this way? */
function Without({
  domain,
  member,
  step,
}: {
  domain: string;
  member: string;
  step: Schemas["Step"];
}) {
  const leave = useWeighMembership(domain);
  return (
    <button
      type="button"
      className="h-6 text-xs underline disabled:opacity-50"
      disabled={leave.isPending}
      onClick={() => leave.mutate({ member, group: step.dn, join: false })}
    >
      Weigh it without {step.name}
    </button>
  );
}

/** The way up through the groups, each a link to the group's own side. */
function Steps({ domain, steps }: { domain: string; steps: Schemas["Step"][] }) {
  return (
    <>
      account
      {steps.map((step) => (
        <span key={step.dn}>
          {" › "}
          <Link
            className="hover:underline"
            to={`/${at(domain)}/accounts?group=${encodeURIComponent(step.name)}`}
          >
            {step.name}
          </Link>
          {step.primary && " (primary group)"}
        </span>
      ))}
    </>
  );
}

function InForce({ core }: { core: Schemas["AccountCore"] }) {
  const catalogue = useCatalogue();
  return (
    <section aria-label="In force">
      <PartHead>In force for this account</PartHead>
      <dl className="grid grid-cols-[1fr_auto]">
        {catalogue.data?.map((setting) => {
          const held = core.settings.find((s) => s.key === setting.key);
          if (!held) return null;
          const bent = held.value !== held.policy_value;
          return (
            <div key={setting.key} className="contents">
              <dt className="border-b border-line/60 py-0.5">{setting.label}</dt>
              <dd className="border-b border-line/60 py-0.5 text-right">
                {bent && (
                  <span className="mr-1 text-xs text-warn">
                    △ by flag, policy says {valueWithUnit(setting, held.policy_value as Value)}
                  </span>
                )}
                <span className="font-mono">{valueWithUnit(setting, held.value as Value)}</span>
              </dd>
            </div>
          );
        })}
      </dl>
    </section>
  );
}
