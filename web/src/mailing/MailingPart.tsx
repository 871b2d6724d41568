import { useMailing } from "../api/mailing";
import { Button } from "../kit/Button";
import { Failure } from "../kit/Loading";
import { PartHead } from "../kit/PartHead";
import { useUrlState } from "../shared/useUrlState";

/** Whether people are written to, in short, with the way to all of it. */
export function MailingPart({ domain }: { domain: string }) {
  const { data, error, refetch } = useMailing(domain);
  const [, open] = useUrlState("mailing");
  const troubled = (data?.lately.refused ?? 0) + (data?.lately.uncertain ?? 0);
  return (
    <section aria-label="Notices by mail" className="mt-2">
      <PartHead
        level={4}
        beside={
          <Button size="small" onClick={() => open(domain)}>
            Notices …
          </Button>
        }
      >
        Notices by mail
      </PartHead>
      {error && <Failure error={error} retry={() => void refetch()} />}
      {data && (
        <p className="py-1">
          {data.mailing.on
            ? `People are written to. In the last 24 hours ${(data.lately.sent ?? 0).toLocaleString("en")} letters were handed over.`
            : "Nobody is written to when a password ends or an account is locked."}
        </p>
      )}
      {data?.mailing.on && (data.trouble || troubled > 0) && (
        <p className="text-warn">
          △ {data.trouble || `${troubled.toLocaleString("en")} letters did not arrive for sure.`}
        </p>
      )}
    </section>
  );
}
