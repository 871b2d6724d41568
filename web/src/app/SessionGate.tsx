import { lazy, Suspense, useEffect } from "react";
import { askWhoIsThere, useMe } from "../api/people";
import { giveUp, onSignInElsewhere, resume, useWanted } from "../api/session";

// Dialogs weigh more than the rest of the way in, and hardly any session ends under the eyes of its
// person.
const ProveOneself = lazy(() =>
  import("./ProveOneself").then((module) => ({ default: module.ProveOneself })),
);
const SessionOver = lazy(() =>
  import("./SessionOver").then((module) => ({ default: module.SessionOver })),
);

/**
 * Over every screen: when the session is over, sign in again in place. What was typed is still
 * there, and what was asked goes on.
 */
export function SessionGate() {
  const me = useMe();
  const wanted = useWanted();
  const over = wanted === "sign-in";
  const name = me.data?.name ?? "";

  useEffect(
    () =>
      onSignInElsewhere(() => {
        void askWhoIsThere().then((there) => {
          // The tabs share one session: what is shown here is shown to whoever it is now.
          if (there.name !== name) window.location.reload();
          else if (wanted) resume();
        });
      }),
    [wanted, name],
  );
  // Nobody was signed in here to begin with, or has just signed out: the page itself says so.
  useEffect(() => {
    if (wanted && me.data && !name) giveUp();
  }, [wanted, me.data, name]);

  if (!wanted || !name) return null;
  return <Suspense>{over ? <SessionOver name={name} /> : <ProveOneself />}</Suspense>;
}
