import { useState } from "react";
import { useMay } from "../api/domains";
import type { Schemas } from "../api/client";
import { useConfirmPlan, type ExposedAccount } from "../api/exposure";
import { unlockingFile } from "../api/locks";
import { Alert, Refusal } from "../kit/Alert";
import { Button, ButtonLink } from "../kit/Button";
import { PartHead } from "../kit/PartHead";
import { plural } from "../shared/span";
import { ReasonForm } from "../kit/ReasonForm";

/** Those who are due by now: somebody looks at them and says so. */
export function PlanPart({ domain, accounts }: { domain: string; accounts: ExposedAccount[] }) {
  const confirm = useConfirmPlan(domain);
  const may = useMay(domain)("settings");
  const [seen, look] = useState<string[] | null>(null);
  const [read] = useState(Date.now);
  const due = accounts
    .filter((one) => one.due_at !== null && Date.parse(one.due_at) <= read)
    .map((one) => one.name);
  if (due.length === 0 && !confirm.data) return null;
  return (
    <section aria-label="Due">
      <PartHead>Due</PartHead>
      {due.length > 0 && (
        <p className="py-1">
          <span className="text-warn">△ {plural(due.length, "account")}</span>{" "}
          {due.length === 1 ? "has" : "have"} to choose another password.
        </p>
      )}
      {may && seen === null && due.length > 0 && (
        <Button onClick={() => look(due)}>Have them changed …</Button>
      )}
      {seen && (
        <ReasonForm
          act="Have them changed"
          busy={confirm.isPending}
          onAct={(reason) =>
            confirm.mutate({ accounts: seen, reason }, { onSuccess: () => look(null) })
          }
          onKeep={() => {
            confirm.reset();
            look(null);
          }}
        >
          {`${seen.slice(0, 8).join(", ")}${seen.length > 8 ? ` and ${(seen.length - 8).toLocaleString("en")} more` : ""} choose another password at the next sign-in.`}
        </ReasonForm>
      )}
      <Refusal error={confirm.error} />
      {confirm.data && seen === null && (
        <Alert role="status">
          <Done domain={domain} done={confirm.data} />
        </Alert>
      )}
    </section>
  );
}

function Done({ domain, done }: { domain: string; done: Schemas["PlanDone"] }) {
  const { required, pending, refused, point } = done;
  return (
    <>
      {(required > 0 || pending === 0) &&
        `${plural(required, "account")} must change the password at the next sign-in. `}
      {refused > 0 && `${plural(refused, "account")} refused: see what was done. `}
      {pending > 0 && point !== null && (
        <>
          △ {plural(pending, "account")} pending: no directory is connected. Apply the change
          record:{" "}
          <ButtonLink size="small" href={unlockingFile(domain, point)} download>
            Change record (LDIF)
          </ButtonLink>
        </>
      )}
    </>
  );
}
