import { Navigate } from "react-router";
import { useDomains } from "../api/domains";
import { useMe } from "../api/people";
import { Failed, Loading } from "../shared/controls";
import { WholePage } from "./WholePage";
import { SignIn } from "./SignIn";
import { at } from "../draft/place";

/**
 * The way in: sign in if needed, then the first domain's strata, or Sources where there is none
 * yet.
 */
export function Home() {
  const me = useMe();
  if (me.isPending)
    return (
      <WholePage>
        <Loading what="who you are" />
      </WholePage>
    );
  if (me.error)
    return (
      <WholePage>
        <Failed error={me.error} retry={() => void me.refetch()} />
      </WholePage>
    );
  if (!me.data.name) return <SignIn />;
  return <FirstDomain />;
}

function FirstDomain() {
  const domains = useDomains();
  if (domains.isPending)
    return (
      <WholePage>
        <Loading what="your domains" />
      </WholePage>
    );
  if (domains.error)
    return (
      <WholePage>
        <Failed error={domains.error} retry={() => void domains.refetch()} />
      </WholePage>
    );
  const first = domains.data[0];
  return <Navigate replace to={first ? `/${at(first.dns_name)}/strata` : "/-/sources"} />;
}
