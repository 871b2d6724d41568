import { Link, Navigate, useLocation } from "react-router";
import { RETURN, useReturn } from "../api/elsewhere";
import { Refusal } from "../kit/Alert";
import { Loading } from "../kit/Loading";
import { useTitle } from "../shared/useTitle";

/** Where the provider sends people back to. */
export function ReturnPage() {
  useTitle("Signing in");
  const { search } = useLocation();
  const { data, error } = useReturn(search);
  // Never back to here: that would be for ever.
  if (data && !data.startsWith(RETURN)) return <Navigate replace to={data} />;
  const waiting = !error && typeof data !== "string";
  return (
    <main className="grid h-full place-items-center overflow-y-auto p-2">
      <div className="w-80 max-w-full space-y-3 rounded-lg border border-line bg-sheet p-6">
        <h1 className="text-lg leading-6">
          {error ? "Not signed in" : waiting ? "Signing in" : "There you are"}
        </h1>
        <Refusal error={error} />
        {waiting ? (
          <Loading what="the provider’s answer" />
        ) : (
          <>
            {!error && <p role="status">The tab you came from goes on. This one can be closed.</p>}
            <Link to="/" className="inline-block underline" ref={(link) => link?.focus()}>
              {error ? "Begin once more" : "Go on here"}
            </Link>
          </>
        )}
      </div>
    </main>
  );
}
