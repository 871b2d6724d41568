import { EmptyState } from "../kit/EmptyState";
import { useCallers } from "../api/gate";
import { Button } from "../kit/Button";
import { Failure } from "../kit/Loading";
import { PartHead } from "../kit/PartHead";
import { plural } from "../shared/span";
import { useUrlState } from "../shared/useUrlState";

/** The gate of a domain in short, with the way to all of it. */
export function GatePart({ domain }: { domain: string }) {
  const gate = useCallers(domain);
  const [, open] = useUrlState("gate");
  const callers = gate.data ?? [];
  const troubled = callers.filter((one) => one.trouble);
  const sum = (of: "accepted" | "refused" | "unanswered") =>
    callers.reduce((before, one) => before + one[of], 0);
  return (
    <section aria-label="Gate" className="mt-2">
      <PartHead
        level={4}
        beside={
          <Button size="small" onClick={() => open(domain)}>
            Gate …
          </Button>
        }
      >
        Gate
      </PartHead>
      {gate.error && <Failure error={gate.error} retry={() => void gate.refetch()} />}
      {gate.data && callers.length === 0 && (
        <EmptyState>
          Nobody asks here when a password is set. A directory server that does enforces what
          policies ask besides.
        </EmptyState>
      )}
      {callers.length > 0 && (
        <p className="py-1">
          {plural(callers.length, "caller")} · in the last 24 hours{" "}
          {sum("accepted").toLocaleString("en")} accepted, {sum("refused").toLocaleString("en")}{" "}
          refused
          {sum("unanswered") > 0 && `, ${sum("unanswered").toLocaleString("en")} without an answer`}
        </p>
      )}
      {troubled.map((one) => (
        <p key={one.id} className="text-warn">
          △ {one.title}: {one.trouble}
        </p>
      ))}
    </section>
  );
}
