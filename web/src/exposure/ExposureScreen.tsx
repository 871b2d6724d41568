import { useParams } from "react-router";
import { useMay } from "../api/domains";
import { useComparisonFollowed, useCompare, useExposure, type Exposure } from "../api/exposure";
import { SidePanel } from "../kit/SidePanel";
import { domainOf } from "../draft/place";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { JobProgress } from "../shared/JobProgress";
import { momentText } from "../shared/moments";
import { plural } from "../shared/span";
import { useTitle } from "../shared/useTitle";
import { WaitsForSecond } from "../kit/WaitsForSecond";
import { useUrlState } from "../shared/useUrlState";
import { Corpora } from "./Corpora";
import { Course } from "./Course";
import { Deeds } from "./Deeds";
import { ExposedPanel } from "./ExposedPanel";
import { PolicyTable } from "./PolicyTable";
import { SharedGroups } from "./SharedGroups";
import { EVERYBODY } from "./words";

/** How far others know the passwords of a domain, and what becomes of that. */
export function ExposureScreen() {
  const { domain = "" } = useParams();
  const [under, show] = useUrlState("under");
  const exposure = useExposure(domain);
  useTitle("Exposure", domainOf(domain));
  useComparisonFollowed(domain, exposure.data?.job);
  if (exposure.isPending || exposure.error)
    return (
      <>
        <h1 className="sr-only">Exposure</h1>
        {exposure.error ? (
          <Failure error={exposure.error} retry={() => void exposure.refetch()} />
        ) : (
          <Loading what="what others know" />
        )}
      </>
    );
  const held = exposure.data;
  const policy = held.policies.find((one) => one.policy === under);
  return (
    <div className="@container h-full overflow-y-auto px-4 pt-2.5 pb-4 small:px-2">
      <Head domain={domain} held={held} />
      <div className="mt-3 grid max-w-[1240px] grid-cols-1 items-start gap-6 @min-[1000px]:grid-cols-[minmax(0,1fr)_320px]">
        <div className="min-w-0 space-y-5">
          <PolicyTable exposure={held} shown={under} onShow={show} />
          <Deeds domain={domain} deeds={held.deeds} />
        </div>
        <div className="min-w-0 space-y-5">
          <Course runs={held.runs} />
          <SharedGroups domain={domain} held={held} />
          <Corpora corpora={held.corpora} />
        </div>
      </div>
      <SidePanel about={policy || under === EVERYBODY ? under : ""}>
        <ExposedPanel
          key={under}
          domain={domain}
          exposure={held}
          policy={policy ?? null}
          onClose={() => show("")}
        />
      </SidePanel>
    </div>
  );
}

function Head({ domain, held }: { domain: string; held: Exposure }) {
  const compare = useCompare(domain);
  const may = useMay(domain)("load");
  const last = held.runs[0];
  const lists = held.corpora.filter((one) => one.compares).length;
  return (
    <div className="space-y-1.5">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h1 className="text-base">Exposure</h1>
        <p className="text-soft">
          {last
            ? `${plural(last.compared, "account")} compared ${momentText(last.at)} with ${plural(lists, "list")} of exposed passwords${last.unknown ? `; ${last.unknown.toLocaleString("en")} more in the file ${last.unknown === 1 ? "is" : "are"} not in the domain` : ""}.`
            : "No account has been compared yet."}
        </p>
        {may && (
          <Button
            size="small"
            disabled={compare.isPending || held.job !== null}
            onClick={() => compare.mutate(undefined)}
          >
            Compare now
          </Button>
        )}
      </div>
      {held.job && <JobProgress job={held.job} />}
      <WaitsForSecond on={held.waits} />
      <Refusal error={compare.error} />
      {held.trouble && !held.job && (
        <Alert tone="fail">
          The last comparison failed: <span className="break-words">{held.trouble}</span>
        </Alert>
      )}
      {!last && !held.trouble && !held.job && !held.file && (
        <Alert>No accounts have been compared yet. An administrator can compare accounts.</Alert>
      )}
      {!last && !held.trouble && !held.job && held.file && (
        <Alert>
          Put the NT hashes of the accounts on the worker’s machine into{" "}
          <span className="font-mono text-xs break-all">{held.file}</span>, one{" "}
          <span className="font-mono text-xs">account,hash</span> on each line, closed to everybody
          else (chmod 600). They are read, compared and forgotten.
        </Alert>
      )}
    </div>
  );
}
