import { lookOf } from "../shared/look";

interface Props {
  /** The mark of the policy; null for the domain policy. */
  mark: number | null;
  /** Accounts that the policy applies to, in populations without a column. */
  governed: number;
  /** Accounts that the policy reaches there, overridden or not. */
  reached: number;
}

/** The accounts of a policy in populations without a column: solid where the policy applies to some,
 * dashed where the policy is overridden for all. */
export function HiddenMark({ mark, governed, reached }: Props) {
  if (reached === 0) return null;
  const look = lookOf(mark);
  return (
    <div
      aria-hidden
      className={`flex h-full items-center justify-center rounded-[3px] ${governed > 0 ? "" : "border border-dashed"}`}
      style={
        governed > 0
          ? { backgroundImage: look.solid }
          : { backgroundImage: look.ghost, borderColor: look.ink }
      }
    >
      <span className="rounded-sm bg-sheet/90 px-1 font-mono text-[11px]">
        {(governed || reached).toLocaleString("en")}
      </span>
    </div>
  );
}
