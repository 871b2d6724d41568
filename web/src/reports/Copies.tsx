import { useReportNow, type ReportOrderInfo } from "../api/reportOrder";
import { STATES } from "../mailing/words";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { momentText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";

/** What became of the last report, address by address, and one at once. */
export function Copies({ domain, info }: { domain: string; info: ReportOrderInfo }) {
  const now = useReportNow(domain);
  const working = info.job?.state === "queued" || info.job?.state === "running";
  return (
    <section aria-label="The last report">
      <PartHead
        beside={
          info.order.to.length > 0 && (
            <Button
              size="small"
              aria-busy={now.isPending || working}
              onClick={() => !now.isPending && !working && now.mutate()}
            >
              Send one now
            </Button>
          )
        }
      >
        The last report
      </PartHead>
      <Refusal error={now.error} />
      <p role="status" className="py-1">
        {working
          ? `${info.job?.step || "It is being written"} …`
          : info.due
            ? `Due on ${momentText(info.due)}. ${info.told}`
            : info.told || "None was sent yet."}
      </p>
      <ul aria-label="Copies">
        {info.copies.map(({ to, state, told }) => {
          const { mark, words, tone } = STATES[state];
          return (
            <li key={to} className="border-b border-line/60 py-1 break-words">
              {to}{" "}
              <span className={tone}>
                {mark} {words}
              </span>
              {told && <span className="block text-xs text-soft">{told}</span>}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
