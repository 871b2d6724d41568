import { Navigate } from "react-router";
import { useDomains } from "../api/domains";
import { Failure, Loading } from "../kit/Loading";
import { WholePage } from "./WholePage";
import { Known } from "./Known";
import { at, lastDomain } from "../draft/place";

/**
 * The way in: sign in if needed, then the strata of the domain where the user was last, else of the
 * first; Sources where there is none yet.
 */
export function Home() {
  return <Known>{(me) => <FirstDomain me={me} />}</Known>;
}

function FirstDomain({ me }: { me: string }) {
  const domains = useDomains();
  if (!domains.data)
    return (
      <WholePage>
        {domains.error ? (
          <Failure error={domains.error} retry={() => void domains.refetch()} />
        ) : (
          <Loading what="your domains" />
        )}
      </WholePage>
    );
  const last = lastDomain(me);
  const first = domains.data.find((one) => one.dns_name === last) ?? domains.data[0];
  return <Navigate replace to={first ? `/${at(first.dns_name)}/strata` : "/-/sources"} />;
}
