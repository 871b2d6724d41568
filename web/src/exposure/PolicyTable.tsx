import type { ReactNode } from "react";
import type { Exposure, PolicyExposure } from "../api/exposure";
import { lookOf } from "../shared/look";
import { PartHead } from "../kit/PartHead";
import { PolicyTag } from "../kit/Swatch";
import { EVERYBODY, orderWords, shareText } from "./words";

interface Props {
  exposure: Exposure;
  shown: string;
  onShow: (policy: string) => void;
}

const number = (count: number) => (count ? count.toLocaleString("en") : "–");

/** The policies, those first whose people's passwords are known most. */
export function PolicyTable({ exposure, shown, onShow }: Props) {
  const { policies, now } = exposure;
  const share = (one: PolicyExposure) => (one.accounts ? one.exposed / one.accounts : 0);
  const sorted = [...policies].sort((a, b) => share(b) - share(a));
  const most = Math.max(...policies.map(share), 0.0001);
  const accounts = policies.reduce((sum, one) => sum + one.accounts, 0);
  const due = policies.reduce((sum, one) => sum + one.due, 0);
  return (
    <section aria-label="By policy">
      <PartHead level={2}>By policy</PartHead>
      <div className="overflow-x-auto">
        <table className="w-full min-w-[660px] text-sm">
          <thead className="text-xs text-soft">
            <tr>
              <th className="py-1 text-left font-normal">Policy</th>
              <Count>Known</Count>
              <Count>Share</Count>
              <th className="w-[18%] py-1 pl-3" aria-hidden />
              <Count>Accounts</Count>
              <Count>On a list</Count>
              <Count>Blank</Count>
              <Count>Guessable</Count>
              <Count>Shared</Count>
              <Count>Due</Count>
              <th className="py-1 pl-3 text-left font-normal">Then</th>
            </tr>
          </thead>
          <tbody>
            {sorted.map((one) => (
              <tr
                key={one.policy}
                className={`border-t border-line/60 ${one.policy === shown ? "bg-hover" : ""}`}
              >
                <th scope="row" className="max-w-44 py-1 pr-2 text-left font-medium">
                  <button
                    type="button"
                    className="flex max-w-full text-left hover:underline"
                    title={one.policy_name}
                    aria-expanded={one.policy === shown}
                    onClick={() => onShow(one.policy === shown ? "" : one.policy)}
                  >
                    <PolicyTag mark={one.mark} name={one.policy_name} />
                  </button>
                </th>
                <Cell>{number(one.exposed)}</Cell>
                <Cell>{shareText(one.exposed, one.accounts)}</Cell>
                <td className="py-1 pl-3">
                  <Bar one={one} most={most} />
                </td>
                <Cell>{one.accounts.toLocaleString("en")}</Cell>
                <Cell>{number(one.listed)}</Cell>
                <Cell>{number(one.blank)}</Cell>
                <Cell>{number(one.own_name + one.house_term)}</Cell>
                <Cell>{number(one.shared)}</Cell>
                <Cell>
                  {one.due > 0 ? <span className="text-warn">△ {number(one.due)}</span> : "–"}
                </Cell>
                <td className="py-1 pl-3 whitespace-nowrap text-soft">{orderWords(one.order)}</td>
              </tr>
            ))}
            <tr className={`border-t border-edge ${shown === EVERYBODY ? "bg-hover" : ""}`}>
              <th scope="row" className="py-1 text-left font-medium">
                <button
                  type="button"
                  className="hover:underline"
                  aria-expanded={shown === EVERYBODY}
                  onClick={() => onShow(shown === EVERYBODY ? "" : EVERYBODY)}
                >
                  Everybody
                </button>
              </th>
              <Cell>{number(now.exposed)}</Cell>
              <Cell>{shareText(now.exposed, accounts)}</Cell>
              <td />
              <Cell>{accounts.toLocaleString("en")}</Cell>
              <Cell>{number(now.listed)}</Cell>
              <Cell>{number(now.blank)}</Cell>
              <Cell>{number(now.own_name + now.house_term)}</Cell>
              <Cell>{number(now.shared)}</Cell>
              <Cell>{number(due)}</Cell>
              <td />
            </tr>
          </tbody>
        </table>
      </div>
      <p className="pt-1 text-xs text-soft">
        Known are passwords that are on a list, blank, or guessable: made of the account’s own name
        or a word of the house. Who only shares one is not counted among them.
      </p>
    </section>
  );
}

function Count({ children }: { children: string }) {
  return <th className="py-1 pl-3 text-right font-normal whitespace-nowrap">{children}</th>;
}

function Cell({ children }: { children: ReactNode }) {
  return <td className="py-1 pl-3 text-right whitespace-nowrap tabular-nums">{children}</td>;
}

function Bar({ one, most }: { one: PolicyExposure; most: number }) {
  const part = one.accounts ? one.exposed / one.accounts : 0;
  return (
    <div aria-hidden className="h-2.5 min-w-10 rounded-[2px] bg-hover">
      <div
        className="h-full rounded-[2px]"
        style={{ width: `${(100 * part) / most}%`, backgroundImage: lookOf(one.mark).solid }}
      />
    </div>
  );
}
