import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { at } from "../draft/place";
import { Alert } from "../kit/Alert";
import { plural } from "../shared/span";

/** Notices above the strata: removed policies, pending publications, no policy at all. */
export function StrataNotices({ strata }: { strata: Schemas["Strata"] }) {
  const domain = strata.domain.dns_name;
  return (
    <>
      {strata.removed.length > 0 && (
        <p className="px-4 pb-1 text-warn">△ This draft removes {strata.removed.join(", ")}.</p>
      )}
      {strata.domain.draft === null && strata.domain.pending > 0 && (
        <p className="px-4 pb-1 text-warn small:px-2">
          △ {plural(strata.domain.pending, "publication")} shown here{" "}
          {strata.domain.pending === 1 ? "is" : "are"} not yet in the directory.{" "}
          <Link className="underline" to={`/${at(domain)}/changes?view=history`}>
            Change records
          </Link>
        </p>
      )}
      {strata.layers.length === 0 && (
        <div className="px-4 pt-2">
          <Alert>
            There is no fine-grained policy in this domain: everybody gets the domain policy. “+
            Policy” makes the first one.
          </Alert>
        </div>
      )}
    </>
  );
}
