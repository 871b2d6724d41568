import { useEndSession, useMe, useOwnSessions } from "../api/people";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { momentText } from "../shared/moments";
import { awayText } from "../shared/span";
import { useTitle } from "../shared/useTitle";
import { ChangePassword } from "./ChangePassword";
import { Tokens } from "./Tokens";

/** One's own way in: password, where one is signed in, tokens for scripts. */
export function OwnScreen() {
  useTitle("Your sign-in");
  const me = useMe().data;
  return (
    <div tabIndex={-1} className="h-full overflow-y-auto px-4 pt-2.5 pb-4 small:px-2">
      <h1 className="mb-2 text-base">Your sign-in</h1>
      <div className="grid max-w-[1060px] grid-cols-[minmax(0,1fr)_300px] items-start gap-5 small:grid-cols-1">
        <div className="min-w-0 space-y-5">
          <Sessions />
          <Tokens />
        </div>
        <section aria-label="Password" className="rounded-md border border-line bg-sheet p-3">
          <h2 className="mb-2 text-sm">Password</h2>
          {me?.directory ? (
            <p className="text-soft">
              You sign in with the one you have at {me.directory}. It is changed there.
            </p>
          ) : me?.elsewhere ? (
            <p className="text-soft">
              You have none here: you sign in at {me.provider || "a provider that is not set now"}.
            </p>
          ) : (
            <ChangePassword />
          )}
        </section>
      </div>
    </div>
  );
}

function Sessions() {
  const sessions = useOwnSessions();
  const end = useEndSession();
  if (sessions.isPending) return <Loading what="your sessions" />;
  if (sessions.error)
    return <Failure error={sessions.error} retry={() => void sessions.refetch()} />;
  const others = sessions.data.filter((one) => !one.here).length;
  return (
    <section aria-label="Sessions">
      <div className="flex items-baseline gap-3">
        <h2 className="text-sm">Where you are signed in</h2>
        <Button
          size="small"
          className="ml-auto"
          disabled={others === 0 || end.isPending}
          onClick={() => end.mutate(null)}
        >
          Sign out everywhere else
        </Button>
      </div>
      <Refusal error={end.error} />
      <ul>
        {sessions.data.map((one) => (
          <li key={one.id} className="flex items-center gap-3 border-b border-line/60 py-1">
            <span className="min-w-0 flex-1">
              <span className="block truncate" title={one.agent}>
                {one.here ? <b>This browser</b> : one.agent || "A browser that does not say which"}
              </span>
              <span className="block text-xs text-soft">
                from {one.address || "an unknown address"}, used {awayText(one.seen_at)}, ends at
                the latest {momentText(one.ends_at)}
              </span>
            </span>
            {!one.here && (
              <Button size="small" disabled={end.isPending} onClick={() => end.mutate(one.id)}>
                Sign out
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
