import { Link } from "react-router";
import { useMe } from "../api/people";
import { useTitle } from "../shared/useTitle";
import { Mark } from "./Mark";
import { ProviderButton } from "./ProviderButton";
import { SignInForm } from "./SignInForm";

export function SignIn() {
  useTitle("Sign in");
  const ownPage = useMe().data?.own_page ?? false;
  return (
    <main className="grid h-full place-items-center overflow-y-auto p-2">
      <div className="w-80 max-w-full rounded-lg border border-line bg-sheet p-6">
        <div className="mb-4 flex items-center gap-3">
          <Mark size={40} />
          <div>
            <h1 className="text-lg leading-6">Hornfels</h1>
            <p className="text-soft">Which policy holds for whom, and why.</p>
          </div>
        </div>
        <SignInForm />
        <ProviderButton />
        {ownPage && (
          <p className="mt-4 text-soft">
            Only about your own password:{" "}
            <Link className="text-ink underline" to="/you">
              your page
            </Link>
          </p>
        )}
      </div>
    </main>
  );
}
