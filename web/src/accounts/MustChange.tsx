import { useState } from "react";
import { useAccountDeed } from "../api/locks";
import { Button, Refused } from "../shared/controls";
import { focusAfterwards } from "../shared/focus";
import { WhyForm } from "../shared/WhyForm";
import { DeedDone } from "./DeedDone";

/** Has one account choose another password at the next sign-in. */
export function MustChange({ domain, name }: { domain: string; name: string }) {
  const renew = useAccountDeed(domain, "must-change");
  const [asked, setAsked] = useState(false);
  return (
    <div className="unprinted space-y-1.5">
      {asked ? (
        <WhyForm
          act="Have it changed"
          busy={renew.isPending}
          onAct={(reason) => {
            const focus = focusAfterwards();
            renew.mutate(
              { accounts: [name], reason },
              {
                onSuccess: () => {
                  setAsked(false);
                  focus.on("unlocking-done");
                },
              },
            );
          }}
          onKeep={() => setAsked(false)}
        >
          {`${name} chooses another password at the next sign-in.`}
        </WhyForm>
      ) : (
        <Button onClick={() => setAsked(true)}>Have the password changed …</Button>
      )}
      <Refused error={renew.error} />
      {renew.data && !asked && <DeedDone domain={domain} done={renew.data} />}
    </div>
  );
}
