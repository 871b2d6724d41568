import { useSignOut } from "../api/people";
import { ChangePassword } from "../own/ChangePassword";
import { Button } from "../kit/Button";
import { useTitle } from "../shared/useTitle";

/** What a password to be used once opens: the way to another one. */
export function FirstPassword() {
  const signOut = useSignOut();
  useTitle("Choose a password");
  return (
    <main className="grid h-full place-items-center overflow-y-auto p-2">
      <div className="w-80 max-w-full rounded-lg border border-line bg-sheet p-6">
        <h1 className="mb-1 text-lg leading-6">Choose a password of your own</h1>
        <p className="mb-4 text-soft">The one you have was made for you, to be used once.</p>
        <ChangePassword />
        <Button tone="quiet" className="-ml-2.5" onClick={() => signOut.mutate()}>
          Sign out
        </Button>
      </div>
    </main>
  );
}
