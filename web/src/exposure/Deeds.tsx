import { Link } from "react-router";
import type { Exposure } from "../api/exposure";
import { at } from "../draft/place";
import { VirtualList } from "../kit/VirtualList";
import { momentText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";

/** Who was told to choose another password, by whom, and what came of it. */
export function Deeds({ domain, deeds }: { domain: string; deeds: Exposure["deeds"] }) {
  if (deeds.length === 0) return null;
  return (
    <section aria-label="What was done">
      <PartHead level={2}>What was done</PartHead>
      <VirtualList
        label="Accounts that were told to choose another password"
        items={deeds}
        keyOf={(deed) => `${deed.at} ${deed.account}`}
        className="max-h-64"
      >
        {(deed) => (
          <>
            <p className="break-words">
              <Link
                className="font-medium hover:underline"
                to={`/${at(domain)}/accounts?account=${encodeURIComponent(deed.account)}`}
              >
                {deed.account}
              </Link>{" "}
              {deed.told ? (
                <span className="text-warn">△ {deed.told}</span>
              ) : (
                <span className="text-pass">✓ chooses another at the next sign-in</span>
              )}
            </p>
            <p className="text-xs text-soft">
              {momentText(deed.at)} · {deed.by} · {deed.policy_name}
            </p>
          </>
        )}
      </VirtualList>
    </section>
  );
}
