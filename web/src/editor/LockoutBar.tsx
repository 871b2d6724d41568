import type { Schemas } from "../api/client";
import { spanText } from "../shared/span";

/** Bad tries, the lock, and how it opens again. */
export function LockoutBar({ course }: { course: Schemas["CourseInfo"] }) {
  const { locks_at: threshold, lock_lasts: duration } = course;
  if (threshold === null)
    return <p className="py-1.5 text-xs text-soft">– Accounts under this policy never lock.</p>;
  return (
    <div aria-hidden className="my-2 flex h-[18px] items-stretch gap-1 text-[11px]">
      <span className="flex flex-none items-center gap-1 rounded-[3px] bg-failbg px-2 font-semibold text-fail">
        {threshold <= 6
          ? Array.from({ length: threshold }, (_, n) => <span key={n}>✕</span>)
          : `${threshold} × ✕`}
      </span>
      <span className="flex flex-1 items-center justify-center rounded-[3px] bg-fail text-white">
        locked {spanText(duration, "until unlocked")}
      </span>
      {duration !== null && (
        <span className="flex flex-none items-center rounded-[3px] bg-passbg px-2 text-pass">
          open
        </span>
      )}
    </div>
  );
}
