import { useState, type DragEvent } from "react";
import { useParams } from "react-router";
import type { Schemas } from "../api/client";
import { useMay } from "../api/domains";
import {
  correctedFiles,
  useReadFolder,
  useServerSet,
  useServerSets,
  useServerSetWrites,
} from "../api/servers";
import { SidePanel } from "../kit/SidePanel";
import { domainOf } from "../draft/place";
import { Alert, Refusal } from "../kit/Alert";
import { Button, ButtonLink } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { Select } from "../kit/inputs";
import { keptValue } from "../shared/kept";
import { useTitle } from "../shared/useTitle";
import { useUrlState } from "../shared/useUrlState";
import { CoverageCourse } from "./CoverageCourse";
import { templatesOf } from "./files";
import { HeldAgainst } from "./HeldAgainst";
import { ImportHelp } from "./ImportHelp";
import { NewSet } from "./NewSet";
import { ServerMatrix } from "./ServerMatrix";
import { ServerPanel } from "./ServerPanel";
import { SetMenu } from "./SetMenu";
import { ChooseFiles, TakingLine } from "./TakeFiles";
import { useTaking } from "./useTaking";

const NEW = "new";

/** Servers with policies of their own, which should agree, and where they do not. */
export function ServersScreen() {
  const { domain = "" } = useParams();
  const [given, choose] = useUrlState("set");
  const sets = useServerSets(domain);
  const may = useMay(domain)("load");
  useTitle("Servers", domainOf(domain));
  if (sets.isPending || sets.error)
    return (
      <>
        <h1 className="sr-only">Servers</h1>
        {sets.error ? (
          <Failure error={sets.error} retry={() => void sets.refetch()} />
        ) : (
          <Loading what="the servers" />
        )}
      </>
    );
  const known = sets.data.sets;
  const set = known.find((one) => String(one.id) === given) ?? known[0];
  const making = given === NEW || (!set && may) || keptValue(domain, "new set of servers");
  return (
    <div className="flex h-full flex-col gap-1.5 px-4 pt-2.5 pb-3 small:px-2 small:pt-1">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h1 className="text-base">Servers</h1>
        {known.length > 0 && (
          <Select
            aria-label="Set of servers"
            className="max-w-56"
            value={set?.id}
            onChange={(event) => choose(event.target.value, { server: "" })}
          >
            {known.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </Select>
        )}
        {set && <span className="text-soft">{coverage(set)}</span>}
        {may && set && !making && (
          <Button tone="quiet" size="small" onClick={() => choose(NEW)}>
            Another set …
          </Button>
        )}
      </div>
      {making && may && (
        <div className="flex flex-wrap items-end gap-2">
          <NewSet domain={domain} onMade={(id) => choose(String(id))} />
          {set && given === NEW && <Button onClick={() => choose("")}>Leave it</Button>}
        </div>
      )}
      {sets.data.watched && <WatchedFolder domain={domain} watched={sets.data.watched} />}
      {set ? (
        <ServerSet key={set.id} domain={domain} number={set.id} onGone={() => choose("")} />
      ) : (
        <Alert>
          Servers that no domain policy reaches keep account settings of their own. Export the
          security template of each, make a set of those that should agree, and read the files into
          it: whoever differs shows, and gets a corrected file back.
        </Alert>
      )}
    </div>
  );
}

function coverage({ agree, differ, unread }: Schemas["ServerSetInfo"]): string {
  const total = agree + differ + unread;
  if (total === 0) return "no server yet";
  const parts = [
    `${agree} of ${total} agree`,
    differ > 0 && `${differ} differ`,
    unread > 0 && `${unread} could not be read`,
  ];
  return parts.filter(Boolean).join(" · ");
}

interface SetProps {
  domain: string;
  number: number;
  onGone: () => void;
}

function ServerSet({ domain, number, onGone }: SetProps) {
  const [chosen, choose] = useUrlState("server");
  const [over, setOver] = useState(false);
  const found = useServerSet(domain, number);
  const writes = useServerSetWrites(domain, number);
  const taking = useTaking(domain, number);
  const may = useMay(domain)("load");
  if (found.isPending) return <Loading what="what the servers say" />;
  if (found.error) return <Failure error={found.error} retry={() => void found.refetch()} />;
  const matrix = found.data;
  const tied = matrix.settings.some((one) => one.tied);
  const server = matrix.servers.find((one) => one.name === chosen);
  const dropped = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    if (!taking.busy) taking.begin(templatesOf(event.dataTransfer.files));
  };
  return (
    <div
      className={`flex min-h-0 flex-1 flex-col gap-1.5 ${over ? "bg-hover" : ""}`}
      onDragOver={(event) => {
        if (!may) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={may ? dropped : undefined}
    >
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <HeldAgainst domain={domain} matrix={matrix} hold={writes.hold} />
        <CoverageCourse days={matrix.days} />
        <div className="ml-auto flex flex-wrap items-center gap-x-3 gap-y-1">
          {may && <ChooseFiles disabled={taking.busy} onChosen={taking.begin} />}
          {matrix.set.differ > 0 && tied && (
            <span className="text-warn">
              △ Choose what they are held against: as many say otherwise.
            </span>
          )}
          {matrix.set.differ > 0 && !tied && (
            <>
              <ButtonLink tone="main" href={correctedFiles(domain, number)} download>
                Corrected files ({matrix.set.differ})
              </ButtonLink>
              <ImportHelp script={matrix.script} />
            </>
          )}
          {may && <SetMenu set={matrix.set} writes={writes} onGone={onGone} />}
        </div>
      </div>
      <TakingLine of={taking} />
      {matrix.servers.length > 0 ? (
        <ServerMatrix matrix={matrix} chosen={chosen} onChoose={choose} />
      ) : (
        <Alert>
          {may
            ? "No server is in this set yet. Read the template of each, exported there; the file, or the folder that it lies in, is called as the server is."
            : "No server is in this set yet."}
        </Alert>
      )}
      <SidePanel about={server ? `${number} ${server.name}` : ""}>
        {server && (
          <ServerPanel
            domain={domain}
            matrix={matrix}
            server={server}
            writes={writes}
            onClose={() => choose("")}
          />
        )}
      </SidePanel>
    </div>
  );
}

function WatchedFolder({
  domain,
  watched,
}: {
  domain: string;
  watched: Schemas["WatchedServers"];
}) {
  const read = useReadFolder(domain);
  const may = useMay(domain)("load");
  return (
    <div>
      <p className="flex flex-wrap items-center gap-2 text-soft">
        <span className="min-w-0 break-all">
          Watched: <span className="font-mono text-xs">{watched.folder}</span>
        </span>
        {may && (
          <Button size="small" disabled={read.isPending} onClick={() => read.mutate(undefined)}>
            Read it now
          </Button>
        )}
      </p>
      {watched.problems.map((one) => (
        <p key={one.place} className="text-warn">
          △ <span className="font-mono text-xs break-all">{one.place}</span>: {one.problem}
        </p>
      ))}
      <Refusal error={read.error} />
    </div>
  );
}
