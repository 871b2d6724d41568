import { spanText } from "../shared/span";
import type { Value } from "./edits";

/** Bad tries, the lock, and how it opens again. */
export function LockoutBar({ settings }: { settings: Record<string, Value> }) {
  const threshold = settings.lockout_threshold as number;
  const duration = settings.lockout_duration as number | null;
  const forever = duration === null || duration === 0;
  if (!(threshold > 0))
    return <p className="py-1.5 text-xs text-soft">– Accounts under this policy never lock.</p>;
  return (
    <div aria-hidden className="my-2 flex h-[18px] items-stretch gap-1 text-[11px]">
      <span className="flex flex-none items-center gap-1 rounded-[3px] bg-failbg px-2 font-semibold text-fail">
        {threshold <= 6
          ? Array.from({ length: threshold }, (_, n) => <span key={n}>✕</span>)
          : `${threshold} × ✕`}
      </span>
      <span className="flex flex-1 items-center justify-center rounded-[3px] bg-fail text-white">
        locked {forever ? "until unlocked" : spanText(duration)}
      </span>
      {!forever && (
        <span className="flex flex-none items-center rounded-[3px] bg-passbg px-2 text-pass">
          open
        </span>
      )}
    </div>
  );
}
