import { useState } from "react";
import type { Schemas } from "../api/client";
import { unlockingFile, useLocks } from "../api/locks";
import { Alert } from "../kit/Alert";
import { ButtonLink } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { momentText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";
import { awayText, plural } from "../shared/span";
import { PolicyTag } from "../kit/Swatch";
import { AccountsView } from "./AccountsView";
import { UnlockBar } from "./UnlockBar";
import { May } from "../shared/May";

/** Patterns that are told in words. */
const PATTERNS = 5;

type Locked = Schemas["LockedAccount"];

/** Who is locked, who is close to it, and what the locks of the last days have in common. */
export function LockedView({
  domain,
  onAccount,
}: {
  domain: string;
  onAccount: (name: string) => void;
}) {
  const locks = useLocks(domain);
  const [chosen, choose] = useState<string[]>([]);
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 pt-2.5 pb-2 small:px-2 small:pt-1">
        <h1 className="mr-1 text-base">Accounts</h1>
        <AccountsView />
      </div>
      {locks.isPending ? (
        <Loading what="the locked accounts" />
      ) : locks.error ? (
        <Failure error={locks.error} retry={() => void locks.refetch()} />
      ) : (
        <>
          <div
            tabIndex={0}
            role="group"
            aria-label="Locked accounts"
            className="min-h-24 flex-1 space-y-3 overflow-auto px-4 pb-3 small:px-2"
          >
            {locks.data.patterns.slice(0, PATTERNS).map((pattern) => (
              <Alert key={pattern.sentence} tone="warn">
                △ {pattern.sentence}
              </Alert>
            ))}
            {locks.data.patterns.length > PATTERNS && (
              <p className="text-soft">
                … and {plural(locks.data.patterns.length - PATTERNS, "pattern")} more like these.
              </p>
            )}
            <LockedTable
              domain={domain}
              locks={locks.data}
              chosen={chosen}
              onChoose={choose}
              onAccount={onAccount}
            />
            <CloseTable locks={locks.data} onAccount={onAccount} />
          </div>
          <May right="unlock" at={domain}>
            <UnlockBar
              domain={domain}
              accounts={chosen.filter((name) => locks.data.locked.some((one) => one.name === name))}
              onDone={() => choose([])}
            />
          </May>
        </>
      )}
    </div>
  );
}

const HEADS = ["Account", "Since", "After", "Until", "Policy", "Unlocking"];

function LockedTable({
  domain,
  locks,
  chosen,
  onChoose,
  onAccount,
}: {
  domain: string;
  locks: Schemas["LocksAnswer"];
  chosen: string[];
  onChoose: (names: string[]) => void;
  onAccount: (name: string) => void;
}) {
  const { locked, locked_total: total } = locks;
  const all = locked.map((one) => one.name);
  const toggle = (name: string) =>
    onChoose(chosen.includes(name) ? chosen.filter((n) => n !== name) : [...chosen, name]);
  if (locked.length === 0) return <p className="py-4 text-center text-soft">✓ Nobody is locked.</p>;
  return (
    <section aria-label="Locked">
      <PartHead level={2}>
        {plural(total, "account")} locked
        {total > locked.length && `, the latest ${locked.length} of them`}
      </PartHead>
      <table aria-label="Locked accounts" className="w-full border-collapse text-left">
        <thead>
          <tr className="border-b border-line text-soft">
            <th scope="col" className="w-8">
              <input
                type="checkbox"
                aria-label="All of them"
                checked={chosen.length === all.length}
                onChange={() => onChoose(chosen.length === all.length ? [] : all)}
              />
            </th>
            {HEADS.map((head) => (
              <th key={head} scope="col" className="pr-3 pb-0.5 font-normal">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {locked.map((one) => (
            <LockedRow
              key={one.name}
              domain={domain}
              one={one}
              chosen={chosen.includes(one.name)}
              onToggle={() => toggle(one.name)}
              onAccount={onAccount}
            />
          ))}
        </tbody>
      </table>
    </section>
  );
}

function LockedRow({
  domain,
  one,
  chosen,
  onToggle,
  onAccount,
}: {
  domain: string;
  one: Locked;
  chosen: boolean;
  onToggle: () => void;
  onAccount: (name: string) => void;
}) {
  return (
    <tr className="border-b border-line/60">
      <td>
        <input
          type="checkbox"
          aria-label={`Choose ${one.name}`}
          checked={chosen}
          onChange={onToggle}
        />
      </td>
      <th scope="row" className="py-1 pr-3 font-medium">
        <AccountName one={one} onAccount={onAccount} />
      </th>
      <td className="pr-3 whitespace-nowrap" title={one.since ? momentText(one.since) : undefined}>
        {one.since ? `${awayText(one.since)}` : "–"}
      </td>
      <td className="pr-3 whitespace-nowrap">
        {one.tries} bad {one.tries === 1 ? "try" : "tries"}
      </td>
      <td className="pr-3 whitespace-nowrap" title={one.until ? momentText(one.until) : undefined}>
        {one.until ? `opens ${awayText(one.until)}` : "unlocked by an operator"}
      </td>
      <td className="max-w-48 pr-3">
        <PolicyTag mark={one.mark} name={one.policy_name} />
      </td>
      <td className="pr-1">
        {one.asked ? (
          <span className="flex flex-wrap items-center gap-x-2">
            <span title={momentText(one.asked.at)}>
              {one.asked.told === "" ? "unlocked" : "asked for"} by {one.asked.by}{" "}
              {awayText(one.asked.at)}
            </span>
            <ButtonLink size="small" href={unlockingFile(domain, one.asked.point)} download>
              Change record
            </ButtonLink>
          </span>
        ) : (
          <span className="text-soft">not asked for</span>
        )}
      </td>
    </tr>
  );
}

function CloseTable({
  locks,
  onAccount,
}: {
  locks: Schemas["LocksAnswer"];
  onAccount: (name: string) => void;
}) {
  const { close, close_total: total } = locks;
  return (
    <section aria-label="Close to it">
      <PartHead level={2}>
        {total === 0 ? "Nobody is close to it" : `${plural(total, "account")} close to it`}
      </PartHead>
      {total > 0 && (
        <table
          aria-label="Accounts close to being locked"
          className="w-full border-collapse text-left"
        >
          <thead>
            <tr className="border-b border-line text-soft">
              {["Account", "Bad tries", "Forgotten", "Policy"].map((head) => (
                <th key={head} scope="col" className="pr-3 pb-0.5 font-normal">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {close.map((one) => (
              <tr key={one.name} className="border-b border-line/60">
                <th scope="row" className="py-1 pr-3 font-medium">
                  <AccountName one={one} onAccount={onAccount} />
                </th>
                <td className="pr-3 whitespace-nowrap">
                  {one.tries}, {one.left} more lock{one.left === 1 && "s"} it
                </td>
                <td
                  className="pr-3 whitespace-nowrap"
                  title={one.forgotten_at ? momentText(one.forgotten_at) : undefined}
                >
                  {one.forgotten_at ? `${awayText(one.forgotten_at)}, if none follows` : "–"}
                </td>
                <td className="max-w-48 pr-3">
                  <PolicyTag mark={one.mark} name={one.policy_name} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function AccountName({
  one,
  onAccount,
}: {
  one: { name: string; display_name: string };
  onAccount: (name: string) => void;
}) {
  return (
    <>
      <button type="button" className="min-h-6 underline" onClick={() => onAccount(one.name)}>
        {one.name}
      </button>
      {one.display_name && <span className="ml-2 font-normal text-soft">{one.display_name}</span>}
    </>
  );
}
