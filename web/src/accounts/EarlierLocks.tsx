import { useEarlierLocks } from "../api/locks";
import { PartHead } from "../kit/PartHead";
import { momentText } from "../shared/moments";
import { awayText } from "../shared/span";

/** When an account was locked before, as far as loads have seen it; nothing if never. */
export function EarlierLocks({ domain, name }: { domain: string; name: string }) {
  const locks = useEarlierLocks(domain, name).data ?? [];
  if (locks.length === 0) return null;
  return (
    <section aria-label="Locks seen">
      <PartHead>Locks that loads have seen</PartHead>
      <ul className="pt-1">
        {locks.map((lock) => (
          <li key={lock.at} className="flex justify-between gap-3">
            <span>
              {momentText(lock.at)}{" "}
              <span className="text-soft">{lock.at && awayText(lock.at)}</span>
            </span>
            <span className="text-soft">
              after {lock.tries} bad {lock.tries === 1 ? "try" : "tries"}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
