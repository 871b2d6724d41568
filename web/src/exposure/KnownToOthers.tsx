import { Link } from "react-router";
import type { ExposedAccount } from "../api/exposure";
import { at } from "../draft/place";
import { dayText } from "../shared/moments";
import { reasonWords } from "./words";

/** What is known of one account's password, in its core. */
export function KnownToOthers({ domain, one }: { domain: string; one: ExposedAccount }) {
  const reasons = [...new Set(one.reasons.map(reasonWords))];
  return (
    <p>
      <span className="text-warn">
        △ The password is {reasons.join(", ")}, since {dayText(one.since)}.
      </span>{" "}
      {one.due_at && `It has to be changed from ${dayText(one.due_at)} on. `}
      <Link className="underline" to={`/${at(domain)}/exposure?under=${one.policy}`}>
        Exposure
      </Link>
    </p>
  );
}
