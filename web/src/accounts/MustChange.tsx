import { useState } from "react";
import { useAccountDeed } from "../api/locks";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { focusAfterwards } from "../shared/focus";
import { ReasonForm } from "../kit/ReasonForm";
import { DeedDone } from "./DeedDone";

/** Has one account choose another password at the next sign-in. */
export function MustChange({ domain, name }: { domain: string; name: string }) {
  const renew = useAccountDeed(domain, "must-change");
  const [asked, setAsked] = useState(false);
  return (
    <div className="unprinted space-y-1.5">
      {asked ? (
        <ReasonForm
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
        </ReasonForm>
      ) : (
        <Button onClick={() => setAsked(true)}>Have the password changed …</Button>
      )}
      <Refusal error={renew.error} />
      {renew.data && !asked && <DeedDone domain={domain} done={renew.data} />}
    </div>
  );
}
