import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { useCard } from "../api/bench";
import type { Schemas } from "../api/client";
import { WholePage } from "../app/WholePage";
import { Known } from "../app/Known";
import { AS_IT_IS } from "../bench/BenchProvider";
import { useVerdicts } from "../bench/useVerdicts";
import { at, domainOf, draftOf } from "../draft/place";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { useTitle } from "../shared/useTitle";
import { letterDay } from "../shared/moments";
import { Mark } from "../app/Mark";
import { Needs, Told } from "./Needs";

type Card = Schemas["CardAnswer"];

/** A policy explained to somebody who is under it: to be shown, tried and printed. */
export function CardPage() {
  return <Known>{() => <Loaded />}</Known>;
}

function Loaded() {
  const { domain = "" } = useParams();
  const [search] = useSearchParams();
  const account = search.get("account");
  const who: { account?: string; policy?: string } = account
    ? { account }
    : { policy: search.get("policy") ?? "domain" };
  const card = useCard(domain, who);
  if (card.isPending)
    return (
      <WholePage>
        <Loading what="the policy" />
      </WholePage>
    );
  if (card.error)
    return (
      <WholePage>
        <Failure error={card.error} retry={() => void card.refetch()} />
      </WholePage>
    );
  return <Sheet place={domain} card={card.data} />;
}

function Sheet({ place, card }: { place: string; card: Card }) {
  const [candidate, setCandidate] = useState("");
  const [shown, setShown] = useState(false);
  const who = {
    accounts: card.account ? [card.account] : [],
    policies: card.account ? [] : [card.policy],
  };
  const { answer, stale, error } = useVerdicts(place, candidate, AS_IT_IS, who);
  // A tick belongs to the candidate beside it: while that is asked about, there is none.
  const column = stale ? undefined : answer?.columns[0];
  useTitle(
    card.account ? `Card for ${card.account}` : `Card for ${card.policy_name}`,
    domainOf(place),
  );
  const back = card.account
    ? `/${at(place)}/accounts?account=${encodeURIComponent(card.account)}`
    : `/${at(place)}/strata?policy=${card.policy}`;
  return (
    <div className="h-full overflow-y-auto bg-paper print:bg-white">
      <nav
        aria-label="Card"
        className="mx-auto flex max-w-[660px] items-center justify-between px-2 pt-4 pb-2 print:hidden"
      >
        <Link to={back} className="underline">
          Back to {card.account ?? card.policy_name}
        </Link>
        <Button autoFocus onClick={() => window.print()}>
          Print
        </Button>
      </nav>
      <main className="mx-auto max-w-[660px] rounded-lg border border-line bg-sheet px-10 py-8 small:px-4 small:py-4 text-[15px] leading-relaxed print:border-0 print:bg-white print:p-0">
        <header className="mb-5 flex items-center gap-4 border-b border-line pb-4">
          <Mark size={40} />
          <div>
            <h1 className="text-[24px] leading-7">
              {card.account ? "Your password" : "Passwords here"}
            </h1>
            <p className="text-soft">
              {card.account
                ? `For ${card.display_name || card.account} (${card.account})`
                : `For everybody under “${card.policy_name}”`}
              , {domainOf(place)}
              {draftOf(place) !== null && " · as a draft would have it, not in force yet"}
            </p>
          </div>
        </header>
        <section aria-label="What a new password needs" className="mb-5">
          <h2 className="mb-1 text-[17px]">A new password must</h2>
          <Needs
            must={card.must}
            ways={card.ways}
            ticks={candidate === "" ? null : (column?.rules ?? null)}
          />
        </section>
        <section
          aria-label="Try one"
          className="mb-5 rounded-md border border-line bg-white p-3.5 print:hidden"
        >
          <label htmlFor="card-candidate" className="font-semibold">
            Try one
          </label>
          <form className="mt-1 flex gap-2" onSubmit={(event) => event.preventDefault()}>
            <input
              id="card-candidate"
              type={shown ? "text" : "password"}
              value={candidate}
              autoComplete="off"
              spellCheck={false}
              maxLength={4000}
              className="h-9 min-w-0 flex-1 rounded-[5px] border border-ink px-2.5 font-mono"
              onChange={(event) => setCandidate(event.target.value)}
            />
            <Button className="h-9" aria-pressed={shown} onClick={() => setShown(!shown)}>
              {shown ? "Hide" : "Show"}
            </Button>
          </form>
          <p
            role="status"
            className={`mt-1.5 min-h-[46px] text-sm ${column ? (column.accepted ? "text-pass" : "text-fail") : "text-soft"}`}
          >
            {candidate === ""
              ? "It is checked as you type and kept nowhere. This does not change your password."
              : column
                ? column.told
                : !error && "…"}
          </p>
          <Refusal error={error} />
        </section>
        <Told title="If it is refused all the same" lines={card.refusals} />
        <Told
          title="Afterwards"
          lines={[
            ...(card.expires_at
              ? [
                  `Your present password lasts until ${letterDay(card.expires_at)}. Then you are asked for a new one when you sign in.`,
                ]
              : []),
            ...card.later,
          ]}
        />
      </main>
    </div>
  );
}
