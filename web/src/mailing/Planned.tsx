import { usePlanned, useWriteNow, type Mailing, type MailingInfo } from "../api/mailing";
import { isActive } from "../api/jobs";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Loading } from "../kit/Loading";
import { PartHead } from "../kit/PartHead";
import { usePaced } from "../shared/usePaced";
import { awayText } from "../shared/span";
import { KINDS } from "./words";

const PAUSE = 500;

/** Who would be written to just now; what came of the last time. */
export function Planned({
  domain,
  mailing,
  info,
}: {
  domain: string;
  mailing: Mailing;
  info: MailingInfo;
}) {
  // Among a million accounts it takes seconds to find out: not at each key.
  const written = JSON.stringify(mailing);
  const paced = usePaced(written, PAUSE);
  const planned = usePlanned(domain, JSON.parse(paced) as Mailing, info.looked_at);
  const now = useWriteNow(domain);
  const busy = info.job !== null && isActive(info.job);
  const found = planned.data;
  return (
    <section aria-label="Who would be written to">
      <PartHead
        beside={
          info.mailing.on && (
            <Button
              size="small"
              aria-busy={now.isPending || busy}
              onClick={() => {
                if (!now.isPending && !busy) now.mutate(undefined);
              }}
            >
              Write now
            </Button>
          )
        }
      >
        Who would be written to
      </PartHead>
      {planned.isPending && <Loading what="who is due" />}
      <Refusal error={planned.error ?? now.error} />
      {found && !planned.error && (
        <div className={planned.isPlaceholderData || paced !== written ? "opacity-40" : ""}>
          <p className="py-1">
            {found.people === 0 ? (
              "Nobody just now."
            ) : (
              <>
                <b className="font-medium">
                  {found.people === 1 ? "1 person" : `${found.people.toLocaleString("en")} people`}
                </b>{" "}
                would get a letter now:{" "}
                {found.by_kind
                  .map(
                    (one) =>
                      `${one.people.toLocaleString("en")} × ${KINDS[one.kind].label.toLowerCase()}`,
                  )
                  .join(", ")}
                .
              </>
            )}
            {found.unreachable > 0 && (
              <span className="block text-warn" title={found.without_address.join(", ")}>
                △ {found.unreachable.toLocaleString("en")} more{" "}
                {found.unreachable === 1 ? "has" : "have"} no address:{" "}
                {found.without_address.slice(0, 3).join(", ")}
                {found.unreachable > 3 && " …"}
              </span>
            )}
          </p>
          {found.first.length > 0 && (
            <details>
              <summary className="cursor-pointer text-xs">
                {found.people > found.first.length
                  ? `The first ${found.first.length}`
                  : "Who it is"}
              </summary>
              <ul className="max-h-60 overflow-y-auto" tabIndex={0} aria-label="Who is due">
                {found.first.map((one) => (
                  <li key={one.account} className="border-b border-line/60 py-1 break-words">
                    {one.display_name || one.account}
                    <span className="block text-xs text-soft">
                      {one.address} · {one.language} ·{" "}
                      {one.about.map((kind) => KINDS[kind].label.toLowerCase()).join(", ")}
                    </span>
                  </li>
                ))}
              </ul>
            </details>
          )}
        </div>
      )}
      {busy ? (
        <p role="status" className="text-soft">
          {info.job?.step || "Waits for a worker"} …
        </p>
      ) : (
        info.told && (
          <Alert>
            <span className="text-soft">
              Last time{info.looked_at && `, ${awayText(info.looked_at)}`}:
            </span>{" "}
            {info.told}
          </Alert>
        )
      )}
    </section>
  );
}
