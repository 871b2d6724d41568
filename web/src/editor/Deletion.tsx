import { Switch } from "radix-ui";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useDeletePolicy, useEditPolicy } from "../api/policies";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Confirmation } from "../kit/Confirmation";
import { plural } from "../shared/span";

/** The guard against deletion, and deletion itself once the guard is lifted. */
export function Deletion({
  domain,
  policy,
  locked,
  onGone,
}: {
  domain: string;
  policy: Schemas["PolicyDetail"];
  locked: boolean;
  onGone: () => void;
}) {
  const [asked, setAsked] = useState(false);
  const edit = useEditPolicy(domain, policy.guid);
  const remove = useDeletePolicy(domain, policy.guid);
  const error = edit.error ?? remove.error;
  return (
    <section aria-label="Deletion">
      <div className="flex items-center gap-2">
        <Switch.Root
          id="guarded"
          checked={policy.guarded}
          disabled={locked || edit.isPending}
          onCheckedChange={(guarded) => {
            setAsked(false);
            edit.mutate({ version: policy.version, guarded, settings: {} });
          }}
          className="h-[18px] w-8 rounded-full border border-edge bg-white disabled:opacity-50 data-[state=checked]:bg-ink"
        >
          <Switch.Thumb className="block h-3 w-3 translate-x-[3px] rounded-full bg-edge data-[state=checked]:translate-x-[15px] data-[state=checked]:bg-white" />
        </Switch.Root>
        <label htmlFor="guarded">Guarded against deletion</label>
        <Button
          tone="danger"
          size="small"
          className="ml-auto"
          disabled={policy.guarded || locked || asked}
          onClick={() => setAsked(true)}
          title={policy.guarded ? "Lift the guard first" : undefined}
        >
          Delete
        </Button>
      </div>
      {asked && (
        <Confirmation
          tone="danger"
          act={`Delete ${policy.name}`}
          busy={remove.isPending}
          onAct={() => remove.mutate(policy.version, { onSuccess: onGone })}
          keep="Keep it"
          onKeep={() => setAsked(false)}
        >
          <p>
            Delete {policy.name}?{" "}
            {policy.governed > 0
              ? `The ${plural(policy.governed, "account")} it governs ${policy.governed === 1 ? "gets" : "get"} the next policy that reaches them.`
              : "It governs nobody, so no account changes."}
          </p>
        </Confirmation>
      )}
      <Refusal error={error} />
    </section>
  );
}
