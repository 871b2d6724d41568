import { useState } from "react";
import { Link } from "react-router";
import { accountsFile } from "../api/accounts";
import { useBaselines } from "../api/baselines";
import { useMay } from "../api/domains";
import { domainReport, drawing } from "../api/reports";
import { at, domainOf } from "../draft/place";
import { Button, ButtonLink } from "../kit/Button";
import { Failure } from "../kit/Loading";
import { Drop } from "../kit/Drop";
import { MomentField } from "../kit/MomentField";
import { localDay } from "../shared/moments";
import { PartHead } from "../kit/PartHead";

interface Props {
  domain: string;
  /** Whether all that a report tells of is known by now. */
  ready: boolean;
}

/** What is shown as files: a report for people who look at no screen, the drawing, the accounts. */
export function ReportMenu({ domain, ready }: Props) {
  const may = useMay(domain);
  return (
    <Drop
      label="Files of what is shown"
      align="end"
      className="w-[380px] space-y-3"
      trigger={<Button>Report …</Button>}
    >
      <Report domain={domain} ready={ready} />
      {may("settings") && (
        <p className="text-soft">
          It can come by mail every week or month:{" "}
          <Link
            className="text-ink underline"
            to={`/${at(domain)}/sources?reporting=${encodeURIComponent(domainOf(domain))}`}
          >
            Report by mail …
          </Link>
        </p>
      )}
      <section aria-label="Other files">
        <PartHead>Other files</PartHead>
        <p className="flex flex-wrap gap-2 pt-1">
          <ButtonLink size="small" href={drawing(domain)} download>
            The drawing (SVG)
          </ButtonLink>
          <ButtonLink size="small" href={accountsFile(domain, "")} download>
            All accounts (CSV)
          </ButtonLink>
        </p>
      </section>
    </Drop>
  );
}

function Report({ domain, ready }: Props) {
  const known = useBaselines();
  const [since, setSince] = useState(() => new Date(Date.now() - 90 * 86_400_000).toISOString());
  const [left, leaveOut] = useState<string[]>([]);
  const names = known.data?.baselines.map((one) => one.name) ?? [];
  const chosen = names.filter((name) => !left.includes(name));
  return (
    <section aria-label="Report" className="space-y-2">
      <PartHead>Report</PartHead>
      <p className="text-soft">
        For management and auditors: the policies in plain words, who is under which and why,
        findings, changes with their approvals. One page that stands alone and prints well.
      </p>
      <label className="flex items-start gap-2">
        <span className="pt-1">Changes since</span>
        <MomentField
          label="Changes since"
          dayOnly
          className="w-36"
          value={since}
          onChange={setSince}
          empty="all that are known"
        />
      </label>
      {known.error && <Failure error={known.error} retry={() => void known.refetch()} />}
      <fieldset>
        <legend className="text-soft">Held against</legend>
        {known.data?.baselines.map((one) => (
          <label key={one.name} className="flex min-h-6 items-center gap-1.5">
            <input
              type="checkbox"
              checked={!left.includes(one.name)}
              onChange={(event) =>
                leaveOut(
                  event.target.checked
                    ? left.filter((name) => name !== one.name)
                    : [...left, one.name],
                )
              }
            />
            {one.title}
          </label>
        ))}
      </fieldset>
      {ready && known.data ? (
        <ButtonLink
          tone="main"
          href={domainReport(domain, since && localDay(since), chosen)}
          download
        >
          Save the report
        </ButtonLink>
      ) : (
        <p role="status" className="text-soft">
          The findings are still being looked for …
        </p>
      )}
    </section>
  );
}
