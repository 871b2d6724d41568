import { Navigate } from "react-router";
import { useDomains } from "../api/domains";
import { Failed, Loading } from "../shared/controls";
import { WholePage } from "./WholePage";
import { Known } from "./Known";
import { at } from "../draft/place";

/**
 * The way in: sign in if needed, then the first domain's strata, or Sources where there is none
 * yet.
 */
export function Home() {
  return <Known>{() => <FirstDomain />}</Known>;
}

function FirstDomain() {
  const domains = useDomains();
  if (!domains.data)
    return (
      <WholePage>
        {domains.error ? (
          <Failed error={domains.error} retry={() => void domains.refetch()} />
        ) : (
          <Loading what="your domains" />
        )}
      </WholePage>
    );
  const first = domains.data[0];
  return <Navigate replace to={first ? `/${at(first.dns_name)}/strata` : "/-/sources"} />;
}
