import { useTitle } from "../shared/useTitle";
import { Link } from "react-router";

export function NotFound() {
  useTitle("No such page");
  return (
    <main className="grid h-full place-content-center gap-2 text-center">
      <h1 className="text-xl">There is no such page</h1>
      <p>
        <Link to="/" ref={(link) => link?.focus()} className="underline">
          Go to the strata
        </Link>
      </p>
    </main>
  );
}
