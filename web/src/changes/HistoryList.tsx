import { useState } from "react";
import { useComparison, useHistory, useTakeBack } from "../api/drafts";
import type { Schemas } from "../api/client";
import { changesFile, unlockingFile } from "../api/locks";
import { changeReport } from "../api/reports";
import { Beside } from "../kit/SidePanel";
import { announce } from "../shared/announce";
import { focusAfterwards } from "../shared/focus";
import { Refusal } from "../kit/Alert";
import { Button, ButtonLink } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { momentText } from "../shared/moments";
import { awayText } from "../shared/span";
import { ChangeList } from "./ChangeList";
import { Select } from "../kit/inputs";
import { useMay } from "../api/domains";

/** Accounts that are named one by one. */
const NAMED = 12;

type Point = Schemas["PointInfo"];

/**
 * Every load, publish and unlocking: who, when, why and what; a publish can be taken back by a draft; any two
 * points compared.
 */
export function HistoryList({ place }: { place: string }) {
  const history = useHistory(place);
  const takeBack = useTakeBack(place);
  const may = useMay(place);
  if (history.isPending) return <Loading what="the history" />;
  if (history.error) return <Failure error={history.error} retry={() => void history.refetch()} />;
  // The latest that can be taken back, once it is known to be the latest.
  const undoable = history.isFetching
    ? undefined
    : history.data.find((point) => point.can_undo)?.id;
  return (
    <>
      <div className="h-full overflow-y-auto px-4 pb-4 small:px-2">
        <Refusal error={takeBack.error} />
        {history.data.length === 0 && (
          <p className="text-soft">Nothing yet: the next load or publish is the first entry.</p>
        )}
        <ol>
          {history.data.map((point) => (
            <li key={point.id} className="border-b border-line py-2">
              <div className="flex flex-wrap items-baseline gap-x-3">
                <span className="w-20 shrink-0 text-xs text-soft">{point.kind}</span>
                <h2 className="text-sm">{point.title}</h2>
                <span className="text-soft" title={momentText(point.at)}>
                  {awayText(point.at)} by {point.author}
                  {point.approver && `, approved by ${point.approver}`}
                </span>
                {point.can_undo && may("draft") && (
                  <Button
                    id={point.id === undoable ? "take-back" : undefined}
                    className="ml-auto"
                    disabled={takeBack.isPending}
                    onClick={() => {
                      const focus = focusAfterwards();
                      void takeBack.mutateAsync(point.id).then(
                        () => {
                          announce("A draft that takes it back is open.");
                          focus.on("publish");
                        },
                        () => undefined,
                      );
                    }}
                  >
                    Take back in a draft
                  </Button>
                )}
              </div>
              {point.kind === "published" && (
                <p className="ml-[92px] small:ml-0">
                  <ButtonLink size="small" href={changeReport(place, point.id)} download>
                    Report (HTML)
                  </ButtonLink>{" "}
                  {point.change_records && (
                    <ButtonLink size="small" href={changesFile(place, point.id)} download>
                      Change records (LDIF)
                    </ButtonLink>
                  )}
                </p>
              )}
              {point.effect.map((line) => (
                <p key={line} className="ml-[92px] break-words small:ml-0">
                  {line.replace(/\.?$/, ".")}
                </p>
              ))}
              {point.in_directory === false && (
                <p className="ml-[92px] text-warn small:ml-0">
                  △ Not yet in the directory. Apply the change records, then import or sync the
                  domain.
                </p>
              )}
              {point.reason && <p className="ml-[92px] small:ml-0">{point.reason}</p>}
              {point.unlocked.length > 0 && (
                <p className="ml-[92px] flex flex-wrap items-center gap-x-2 small:ml-0">
                  {point.unlocked.slice(0, NAMED).join(", ")}
                  {point.unlocked.length > NAMED && ` and ${point.unlocked.length - NAMED} more`}
                  <ButtonLink size="small" href={unlockingFile(place, point.id)} download>
                    Change record (LDIF)
                  </ButtonLink>
                </p>
              )}
              {point.groups.length > 0 && (
                <details className="ml-[92px] small:ml-0">
                  <summary className="cursor-pointer text-soft">What was published</summary>
                  <ChangeList groups={point.groups} />
                </details>
              )}
            </li>
          ))}
        </ol>
        <Beside>
          <div className="px-4 py-3 small:px-0">
            <Compare place={place} points={history.data} />
          </div>
        </Beside>
      </div>
    </>
  );
}

function Compare({ place, points }: { place: string; points: Point[] }) {
  const [before, setBefore] = useState<number | null>(points[1]?.id ?? null);
  const [after, setAfter] = useState<number | null>(points[0]?.id ?? null);
  const comparison = useComparison(place, before, after);
  if (points.length < 2)
    return (
      <p className="text-soft">Two points of history can be compared here once there are two.</p>
    );
  const select = (label: string, value: number | null, set: (id: number) => void) => (
    <label className="grid grid-cols-[44px_minmax(0,1fr)] items-center gap-2">
      {label}
      <Select
        title={points.find((p) => p.id === value)?.title}
        value={value ?? ""}
        onChange={(event) => set(Number(event.target.value))}
      >
        {points.map((p) => (
          <option key={p.id} value={p.id}>
            {p.title} ({momentText(p.at)})
          </option>
        ))}
      </Select>
    </label>
  );
  return (
    <section aria-label="Compare" className="space-y-2">
      <h2 className="text-sm">Compare two points</h2>
      {select("From", before, setBefore)}
      {select("To", after, setAfter)}
      {before === after && <p className="text-soft">Choose two different points.</p>}
      {comparison.error && (
        <Failure error={comparison.error} retry={() => void comparison.refetch()} />
      )}
      {comparison.isFetching && <Loading what="both points" />}
      {comparison.data &&
        before !== after &&
        (comparison.data.groups.length ? (
          <ChangeList groups={comparison.data.groups} />
        ) : (
          <p>✓ The policies are the same at both points.</p>
        ))}
    </section>
  );
}
