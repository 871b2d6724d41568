import { EmptyState } from "../kit/EmptyState";
import { useState } from "react";
import { useLink, useUnlink } from "../api/policies";
import { conflictOf } from "../api/writing";
import type { Schemas } from "../api/client";
import { announce } from "../shared/announce";
import { focusAfterwards } from "../shared/focus";
import { Confirmation } from "../kit/Confirmation";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Finder } from "../shared/Finder";
import { plural } from "../shared/span";
import { PartHead } from "../kit/PartHead";
import { May } from "../shared/May";

/** Whom the policy is linked to, and a search to link it to more. */
export function Links({ domain, policy }: { domain: string; policy: Schemas["PolicyDetail"] }) {
  const [adding, setAdding] = useState(false);
  const link = useLink(domain, policy.guid);
  const unlink = useUnlink(domain, policy.guid);
  const [direct, setDirect] = useState<Schemas["Hit"] | null>(null);
  const error = link.error ?? unlink.error;
  const conflict = conflictOf(error);

  const add = (hit: Schemas["Hit"]) => {
    unlink.reset();
    const focus = focusAfterwards();
    link.mutate(
      { dn: hit.dn, version: policy.version },
      {
        onSuccess: () => {
          setAdding(false);
          setDirect(null);
          focus.on("review-draft");
          announce(`Linked to ${hit.name}.`);
        },
      },
    );
  };

  return (
    <section aria-label="Linked to">
      <PartHead
        beside={
          <May right="draft" at={domain}>
            <Button
              id="add-link"
              size="small"
              onClick={() => setAdding(!adding)}
              aria-expanded={adding}
            >
              + Link
            </Button>
          </May>
        }
      >
        Linked to
      </PartHead>
      {direct && (
        <Confirmation
          tone="main"
          act={`Link to ${direct.name}`}
          busy={link.isPending}
          onAct={() => add(direct)}
          keep="Cancel"
          onKeep={() => setDirect(null)}
        >
          A link to the account {direct.name} overrides every policy that is linked to a group of
          the account, whatever the precedence.
        </Confirmation>
      )}
      {adding && !direct && (
        <div className="py-1.5">
          <Finder
            domain={domain}
            kinds={["group", "account"]}
            label="Group or account to link"
            placeholder="Name of a group or account"
            autoFocus
            upwards
            onEscape={() => setAdding(false)}
            onPick={(hit) => (hit.kind === "account" ? setDirect(hit) : add(hit))}
          />
        </div>
      )}
      <Refusal
        error={conflict?.message ?? error}
        also={conflict ? "It is shown as it is now; make the change again if it still fits." : ""}
      />
      {policy.links.length === 0 && (
        <EmptyState>Linked to nothing, so it reaches nobody.</EmptyState>
      )}
      <ul className="max-h-60 overflow-y-auto">
        {policy.links.map((item) => (
          <li key={item.dn} className="border-b border-line/60 py-1">
            <div className="flex items-center gap-2">
              <span className="truncate" title={item.dn}>
                {item.name}
              </span>
              <span className="ml-auto shrink-0 text-xs text-soft">
                {item.kind === "group"
                  ? `${item.scope} · ${plural(item.direct_members, "member")}`
                  : item.kind === "account"
                    ? "account"
                    : item.kind}
              </span>
              <May right="draft" at={domain}>
                <button
                  type="button"
                  className="h-6 w-6 rounded text-soft hover:bg-failbg hover:text-fail disabled:opacity-40"
                  disabled={unlink.isPending}
                  aria-label={`Unlink ${item.name}`}
                  title={`Unlink ${item.name}`}
                  onClick={() => {
                    link.reset();
                    unlink.mutate({ dn: item.dn, version: policy.version });
                  }}
                >
                  ✕
                </button>
              </May>
            </div>
            {item.nested.length > 0 && (
              <p className="truncate text-xs text-soft">
                with {item.nested.join(", ")} nested in it
              </p>
            )}
            {item.trouble && <p className="text-xs text-warn">△ Reaches nobody: {item.trouble}.</p>}
          </li>
        ))}
      </ul>
    </section>
  );
}
