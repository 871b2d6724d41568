import { Link } from "react-router";
import { useLocks } from "../api/locks";
import { at } from "../draft/place";

/**
 * How many accounts are locked, wherever one is; nothing where none is. A small window has it in the
 * rail.
 */
export function LockedLine({ domain }: { domain: string }) {
  const locked = useLocks(domain).data?.locked_total ?? 0;
  if (locked === 0) return null;
  return (
    <Link
      to={`/${at(domain)}/accounts?view=locked`}
      className="shrink-0 small:hidden font-medium whitespace-nowrap text-fail underline"
    >
      {locked.toLocaleString("en")} locked
    </Link>
  );
}
