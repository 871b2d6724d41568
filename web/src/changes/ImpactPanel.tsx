import { Link } from "react-router";
import { useImpact } from "../api/drafts";
import { useCatalogue } from "../api/policies";
import type { Schemas } from "../api/client";
import { Alert } from "../kit/Alert";
import { Failure, Loading } from "../kit/Loading";
import { plural } from "../shared/span";
import { Swatch } from "../kit/Swatch";
import { at } from "../draft/place";

/**
 * Whom the draft hits: administrators who get weaker first, then who changes policy, which
 * settings, and whose password expires.
 */
export function ImpactPanel({ place }: { place: string }) {
  const impact = useImpact(place);
  const catalogue = useCatalogue();
  if (impact.isPending || catalogue.isPending) return <Loading what="the impact" />;
  if (impact.error) return <Failure error={impact.error} retry={() => void impact.refetch()} />;
  const { data } = impact;
  const label = (key: string) => catalogue.data?.find((s) => s.key === key)?.label ?? key;
  const quiet = data.accounts === 0 && data.settings.length === 0 && data.asked_otherwise === 0;
  return (
    <section aria-label="Impact" className="space-y-2">
      <h2 className="text-sm">Impact</h2>
      {data.weaker_privileged > 0 && (
        <Alert tone="fail">
          <strong>
            ▲ {plural(data.weaker_privileged, "administrator")} would be held to less:
          </strong>{" "}
          {data.weaker_privileged_names.map((name, n) => (
            <span key={name}>
              {n > 0 && ", "}
              <Link
                className="whitespace-nowrap underline"
                to={`/${at(place)}/accounts?account=${encodeURIComponent(name)}`}
              >
                {name}
              </Link>
            </span>
          ))}
          {data.weaker_privileged > data.weaker_privileged_names.length && " and others"}.
        </Alert>
      )}
      {quiet && <p>✓ Nobody’s policy and no setting in force changes.</p>}
      {data.transfers.length > 0 && (
        <table className="w-full">
          <caption className="pb-1 text-left">
            {plural(data.accounts, "account")} change{data.accounts === 1 ? "s" : ""} policy
          </caption>
          <tbody>
            {data.transfers.map((t) => (
              <tr key={t.before + t.after} className="border-b border-line/60">
                <td className="w-12 py-0.5 pr-2 text-right font-mono">
                  {t.accounts.toLocaleString("en")}
                </td>
                <td className="py-0.5">
                  <span className="inline-flex max-w-full items-center gap-1.5">
                    <Swatch mark={t.before_mark} /> {t.before} → <Swatch mark={t.after_mark} />{" "}
                    {t.after}
                  </span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {data.settings.length > 0 && (
        <table className="w-full">
          <thead>
            <tr className="border-b border-line text-right text-xs text-soft">
              <th scope="col" className="text-left font-normal">
                Accounts for which it gets
              </th>
              <th scope="col" className="w-20 font-normal">
                stronger
              </th>
              <th scope="col" className="w-20 font-normal">
                weaker
              </th>
            </tr>
          </thead>
          <tbody>
            {data.settings.map((s) => (
              <tr key={s.key} className="border-b border-line/60 text-right">
                <th scope="row" className="py-0.5 text-left font-normal">
                  {label(s.key)}{" "}
                  <span className="text-xs text-soft">
                    {s.bites === "now" ? "at once" : "next change"}
                  </span>
                </th>
                <td className="font-mono text-pass">
                  {s.stronger > 0 && `▲ ${s.stronger.toLocaleString("en")}`}
                </td>
                <td className="font-mono text-fail">
                  {s.weaker > 0 && `▽ ${s.weaker.toLocaleString("en")}`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {data.asked_otherwise > 0 && (
        <p>
          For {plural(data.asked_otherwise, "account")} what is asked besides changes:{" "}
          {plural(data.under_addition, "account")} under an addition,{" "}
          {data.under_addition_before.toLocaleString("en")} before.
        </p>
      )}
      {!quiet && <Expiries impact={data} />}
      {data.newly_lockable > 0 && (
        <p>{plural(data.newly_lockable, "account")} can be locked out that could not before.</p>
      )}
      {data.no_longer_lockable > 0 && (
        <p>
          △ {plural(data.no_longer_lockable, "account")} can be guessed at without ever locking.
        </p>
      )}
    </section>
  );
}

const HEIGHT = 44;

/**
 * Passwords that expire: at once, and on each of the next days as a strip of bars, the live count
 * as a line in each.
 */
function Expiries({ impact }: { impact: Schemas["ImpactInfo"] }) {
  const { expiring, expiring_before: before } = impact;
  const most = Math.max(1, ...expiring, ...before);
  const sum = (counts: number[]) => counts.reduce((a, b) => a + b, 0);
  const width = 100 / expiring.length;
  const same = expiring.every((count, day) => count === before[day]);
  return (
    <div>
      {impact.expire_at_once > 0 && (
        <Alert tone="warn">
          △ <strong>{plural(impact.expire_at_once, "password")}</strong> would expire the moment
          this is published.
        </Alert>
      )}
      <p>
        {same
          ? `Expiries of the next ${expiring.length} days stay as they are: ${sum(before).toLocaleString("en")}.`
          : `Expiring in the next ${expiring.length} days: ${sum(expiring).toLocaleString("en")} instead of ${sum(before).toLocaleString("en")}, at most ${most.toLocaleString("en")} a day.`}
      </p>
      {!same && (
        <svg
          viewBox={`0 0 100 ${HEIGHT}`}
          preserveAspectRatio="none"
          className="mt-1 h-11 w-full"
          role="img"
          aria-label={`Passwords expiring on each of the next ${expiring.length} days; lines show live`}
        >
          {expiring.map((count, day) => {
            const tall = (count / most) * HEIGHT;
            const was = HEIGHT - ((before[day] ?? 0) / most) * HEIGHT;
            return (
              <g key={day}>
                <rect
                  x={day * width + width * 0.1}
                  width={width * 0.8}
                  y={HEIGHT - tall}
                  height={tall}
                  fill="var(--color-warn)"
                  opacity="0.55"
                />
                <rect
                  x={day * width}
                  width={width}
                  y={Math.min(HEIGHT - 1, was)}
                  height="1"
                  fill="var(--color-ink)"
                />
              </g>
            );
          })}
        </svg>
      )}
      {!same && (
        <p className="flex justify-between text-xs text-soft">
          <span>tomorrow</span>
          <span>bars: this draft · lines: live</span>
          <span>in {expiring.length} d</span>
        </p>
      )}
    </div>
  );
}
