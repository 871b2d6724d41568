import { useState } from "react";
import type { Schemas } from "../api/client";
import { useMay } from "../api/domains";
import { useServerCourse, type useServerSetWrites } from "../api/servers";
import { PanelHead } from "../kit/PanelHead";
import { Confirmation } from "../kit/Confirmation";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { momentText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";
import { SaidLine } from "../shared/SaidLine";
import { awayText, plural } from "../shared/span";

interface Props {
  domain: string;
  matrix: Schemas["ServerMatrix"];
  server: Schemas["ServerInfo"];
  writes: ReturnType<typeof useServerSetWrites>;
  onClose: () => void;
}

/** One server: where it differs, what was read of it and when. */
export function ServerPanel({ domain, matrix, server, writes, onClose }: Props) {
  const may = useMay(domain);
  const { hold, dropServer } = writes;
  const [asked, ask] = useState(false);
  const differences = matrix.settings.flatMap((one, at) => {
    const said = server.said[at];
    return said ? [{ subject: "", text: one.label, before: said, after: one.wanted }] : [];
  });
  const isReference = matrix.held.server === server.name;
  return (
    <div>
      <PanelHead
        title={server.name}
        detail={`${matrix.set.name} · read ${awayText(server.read_at)}`}
        onClose={onClose}
      />
      <div className="space-y-3 px-4 pb-4">
        {server.state === "not read" && (
          <p className="text-warn">? It could not be read. {server.problem}</p>
        )}
        {server.state === "agrees" && (
          <p className="text-pass">✓ It says all that is wanted: nothing to do.</p>
        )}
        {differences.length > 0 && (
          <section aria-label="Differences">
            <p className="text-fail">✕ It differs in {plural(differences.length, "setting")}.</p>
            <p className="mb-1 text-xs text-soft">What it says → what is wanted</p>
            <SaidLine said={differences} />
          </section>
        )}
        {isReference && <p>The others are held against it.</p>}
        <div className="flex flex-wrap gap-2">
          {server.state !== "not read" && !isReference && may("draft") && (
            <Button
              size="small"
              disabled={hold.isPending}
              onClick={() => hold.mutate({ way: "server", server: server.name, seen: "" })}
            >
              Hold the others against it
            </Button>
          )}
          {may("load") && !asked && (
            <Button size="small" tone="quiet" onClick={() => ask(true)}>
              Take it out …
            </Button>
          )}
        </div>
        {asked && (
          <Confirmation
            tone="danger"
            act="Take it out"
            busy={dropServer.isPending}
            onAct={() => dropServer.mutate(server.name, { onSuccess: onClose })}
            keep="Keep it"
            onKeep={() => ask(false)}
          >
            What was read of {server.name} is forgotten. A file of it in the watched folder comes
            back at the next look.
          </Confirmation>
        )}
        <Refusal error={hold.error ?? dropServer.error} />
        <Readings domain={domain} number={matrix.set.id} name={server.name} />
      </div>
    </div>
  );
}

function Readings({ domain, number, name }: { domain: string; number: number; name: string }) {
  const course = useServerCourse(domain, number, name);
  if (course.isPending) return <Loading what="what was read" />;
  if (course.error) return <Failure error={course.error} retry={() => void course.refetch()} />;
  return (
    <section aria-label="Readings">
      <PartHead>What was read, when it was new</PartHead>
      <ol>
        {course.data.turns.map((turn) => (
          <li key={turn.at} className="border-b border-line/60 py-1">
            <span className="block text-xs text-soft">{momentText(turn.at)}</span>
            {turn.problem ? (
              <span className="text-warn">? {turn.problem}</span>
            ) : turn.changes.length > 0 ? (
              <SaidLine said={turn.changes} />
            ) : turn.is_first ? (
              "Read for the first time."
            ) : (
              "It could be read again, and says what it said before."
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}
