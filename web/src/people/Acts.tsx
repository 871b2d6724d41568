import { useActs, useConfirmAct, useWithdrawAct } from "../api/people";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { ScrolledList } from "../kit/ScrolledList";
import { awayText } from "../shared/span";
import { OneTime } from "./OneTime";

/** What somebody has asked for and a second person has to confirm. */
export function Acts() {
  const acts = useActs().data ?? [];
  const confirm = useConfirmAct();
  const withdraw = useWithdrawAct();
  const busy = confirm.isPending || withdraw.isPending;
  return (
    <>
      {acts.length > 0 && (
        <section
          aria-label="Waiting for a second person"
          className="mb-3 border-l-[3px] border-warn bg-warnbg px-2.5 py-1.5"
        >
          <h2 className="text-sm">Waiting for a second person</h2>
          <ul>
            {acts.map((act) => (
              <li key={act.id} className="flex flex-wrap items-center gap-x-3 gap-y-1 py-1">
                <span className="min-w-0 flex-1 basis-64">
                  <b>{act.sentence}.</b>{" "}
                  <span className="text-soft">
                    {act.mine ? "You" : act.asked_by} asked {awayText(act.asked_at)}: {act.reason}
                  </span>
                  <ScrolledList label="What would happen" of={act.details} />
                </span>
                {!act.mine && (
                  <Button tone="main" disabled={busy} onClick={() => confirm.mutate(act.id)}>
                    Confirm
                  </Button>
                )}
                <Button disabled={busy} onClick={() => withdraw.mutate(act.id)}>
                  {act.mine ? "Withdraw" : "Refuse"}
                </Button>
              </li>
            ))}
          </ul>
        </section>
      )}
      <Refusal error={confirm.error ?? withdraw.error} />
      {confirm.data?.one_time && <OneTime name="The person" password={confirm.data.one_time} />}
    </>
  );
}
