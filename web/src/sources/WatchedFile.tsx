import { useMay } from "../api/domains";
import { upToDateFile, useTakeFile, useWatchedFile } from "../api/policyFiles";
import { announce } from "../shared/announce";
import { Refusal } from "../kit/Alert";
import { Button, ButtonLink } from "../kit/Button";
import { awayText } from "../shared/span";
import { hasWork, PolicyPlan, WrongList } from "./PolicyPlan";

/** The file that is kept on the server's machine, how it and live have drifted apart, and both ways back. */
export function WatchedFile({ domain }: { domain: string }) {
  const watched = useWatchedFile(domain);
  const take = useTakeFile(domain);
  const may = useMay(domain);
  const file = watched.data?.file;
  if (watched.error) return <Refusal error={watched.error} />;
  if (!file) return null;
  return (
    <section aria-label="Watched file" className="mt-2 space-y-1.5">
      <p>
        Watched: <b className="font-medium break-all">{file.name}</b>, changed{" "}
        {awayText(file.changed_at)}.
        {file.behind_since && (
          <span className="text-warn">
            {" "}
            △ Live was as it has it {awayText(file.behind_since)}, and has changed since.
          </span>
        )}
      </p>
      {file.plan ? (
        <PolicyPlan file={file.name} plan={file.plan} />
      ) : (
        <WrongList file={file.name} wrong={file.wrong} />
      )}
      {file.plan && hasWork(file.plan) && (
        <div className="flex flex-wrap gap-2">
          {file.plan.changes.length > 0 && (
            <ButtonLink size="small" href={upToDateFile(domain)} download>
              The file brought up to live
            </ButtonLink>
          )}
          {may("draft") && (
            <Button
              size="small"
              disabled={take.isPending}
              onClick={() =>
                take.mutate(null, {
                  onSuccess: ({ draft }) =>
                    announce(draft ? "The draft is open." : "The trials are kept."),
                })
              }
            >
              {file.plan.changes.length > 0 ? "A draft of the file" : "Keep its trials"}
            </Button>
          )}
        </div>
      )}
      <Refusal error={take.error} />
    </section>
  );
}
