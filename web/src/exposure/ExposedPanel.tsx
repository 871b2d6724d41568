import { EmptyState } from "../kit/EmptyState";
import { Link } from "react-router";
import { useMay } from "../api/domains";
import {
  useExposedAccounts,
  type ExposedAccount,
  type Exposure,
  type PolicyExposure,
} from "../api/exposure";
import { at } from "../draft/place";
import { PanelHead } from "../kit/PanelHead";
import { Failure, Loading } from "../kit/Loading";
import { VirtualList } from "../kit/VirtualList";
import { dayText, momentText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";
import { plural } from "../shared/span";
import { OrderPart } from "./OrderPart";
import { PlanPart } from "./PlanPart";
import { reasonWords, shareText } from "./words";

interface Props {
  domain: string;
  exposure: Exposure;
  /** None stands for everybody. */
  policy: PolicyExposure | null;
  onClose: () => void;
}

/** Those under one policy whose passwords others know, and what becomes of them. */
export function ExposedPanel({ domain, exposure, policy, onClose }: Props) {
  const may = useMay(domain)("exposed");
  const found = useExposedAccounts(domain, policy?.policy ?? "", may);
  if (may && found.isPending) return <Loading what="who it is" />;
  if (found.error) return <Failure error={found.error} retry={() => void found.refetch()} />;
  const counts = policy ?? exposure.now;
  const all = policy?.accounts ?? exposure.policies.reduce((sum, one) => sum + one.accounts, 0);
  return (
    <article aria-label={`Exposed: ${policy?.policy_name ?? "everybody"}`}>
      <PanelHead
        mark={policy ? policy.mark : undefined}
        title={policy?.policy_name ?? "Everybody"}
        detail={`${counts.exposed.toLocaleString("en")} of ${plural(all, "account")} known to others · ${shareText(counts.exposed, all)}`}
        onClose={onClose}
      />
      <div className="space-y-4 px-4 pb-4">
        {policy && <OrderPart domain={domain} exposure={exposure} policy={policy} />}
        {found.data && <PlanPart domain={domain} accounts={found.data.accounts} />}
        {policy && policy.populations.length > 0 && (
          <section aria-label="By population">
            <PartHead>By population</PartHead>
            <ul>
              {policy.populations.map((one) => (
                <li key={one.key} className="flex items-baseline gap-2 py-0.5">
                  <Link
                    className="min-w-0 truncate underline"
                    title={one.who}
                    to={`/${at(domain)}/accounts?population=${one.key}`}
                  >
                    {one.who}
                  </Link>
                  <span className="ml-auto shrink-0 text-soft tabular-nums">
                    {one.exposed.toLocaleString("en")} of {one.accounts.toLocaleString("en")} ·{" "}
                    {shareText(one.exposed, one.accounts)}
                  </span>
                </li>
              ))}
            </ul>
          </section>
        )}
        <section aria-label="Accounts">
          <PartHead>Accounts</PartHead>
          {!found.data ? (
            <EmptyState>
              Who it is, only those see who may: it is what a guesser would want to know.
            </EmptyState>
          ) : found.data.accounts.length === 0 ? (
            <EmptyState>Nobody, as far as it was compared.</EmptyState>
          ) : (
            <>
              {found.data.total > found.data.accounts.length && (
                <EmptyState>
                  The newest {found.data.accounts.length.toLocaleString("en")} of{" "}
                  {found.data.total.toLocaleString("en")}.
                </EmptyState>
              )}
              <VirtualList
                label="Exposed accounts"
                items={found.data.accounts}
                keyOf={(one) => one.name}
                className="max-h-[26rem]"
              >
                {(one) => <Account domain={domain} one={one} named={policy === null} />}
              </VirtualList>
            </>
          )}
        </section>
      </div>
    </article>
  );
}

function Account({ domain, one, named }: { domain: string; one: ExposedAccount; named: boolean }) {
  return (
    <>
      <p className="flex items-baseline gap-2">
        <Link
          className="min-w-0 truncate font-medium hover:underline"
          title={one.name}
          to={`/${at(domain)}/accounts?account=${encodeURIComponent(one.name)}`}
        >
          {one.name}
        </Link>
        <span className="ml-auto shrink-0 text-xs text-soft" title={momentText(one.since)}>
          since {dayText(one.since)}
        </span>
      </p>
      <p className="text-xs text-soft">
        {[...new Set(one.reasons.map(reasonWords))].join(", ")}
        {named && ` · ${one.policy_name}`}
        {one.due_at && ` · due ${dayText(one.due_at)}`}
        {one.spared && " · never told to change it"}
      </p>
    </>
  );
}
