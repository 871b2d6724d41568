import { useReportOrder } from "../api/reportOrder";
import { Button } from "../kit/Button";
import { Failure } from "../kit/Loading";
import { momentText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";
import { useUrlState } from "../shared/useUrlState";

/** Whether a report comes by itself, in short, with the way to all of it. */
export function ReportOrderPart({ domain }: { domain: string }) {
  const { data, error, refetch } = useReportOrder(domain);
  const [, open] = useUrlState("reporting");
  const lost = data?.copies.filter(
    (copy) => copy.state === "refused" || copy.state === "uncertain",
  );
  return (
    <section aria-label="Report by mail" className="mt-2">
      <PartHead
        level={4}
        beside={
          <Button size="small" onClick={() => open(domain)}>
            Report by mail …
          </Button>
        }
      >
        Report by mail
      </PartHead>
      {error && <Failure error={error} retry={() => void refetch()} />}
      {data && (
        <p className="py-1">
          {data.order.on && data.next
            ? `It comes every ${data.order.every}, next on ${momentText(data.next)}.`
            : "No report comes by itself."}
        </p>
      )}
      {data?.order.on && (data.trouble || (lost && lost.length > 0)) && (
        <p className="text-warn">
          △ {data.trouble || "The last one did not reach everybody for sure."}
        </p>
      )}
    </section>
  );
}
