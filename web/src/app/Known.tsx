import type { ReactNode } from "react";
import { useMe } from "../api/people";
import { Failure, Loading } from "../kit/Loading";
import { FirstPassword } from "./FirstPassword";
import { SignIn } from "./SignIn";
import { WholePage } from "./WholePage";

/** What is shown to who is signed in, by their name; to anybody else the way in. */
export function Known({ children }: { children: (name: string) => ReactNode }) {
  const me = useMe();
  if (me.data?.name && me.data.one_time) return <FirstPassword />;
  if (me.data) return me.data.name ? children(me.data.name) : <SignIn />;
  return (
    <WholePage>
      {me.error ? (
        <Failure error={me.error} retry={() => void me.refetch()} />
      ) : (
        <Loading what="who you are" />
      )}
    </WholePage>
  );
}
