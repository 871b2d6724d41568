import { Mark } from "./Mark";
import { SignInForm } from "./SignInForm";

export function SignIn() {
  return (
    <main className="grid h-full place-content-center">
      <div className="w-80 rounded-lg border border-line bg-sheet p-6">
        <div className="mb-4 flex items-center gap-3">
          <Mark size={40} />
          <div>
            <h1 className="text-lg leading-6">Hornfels</h1>
            <p className="text-soft">Which policy holds for whom, and why.</p>
          </div>
        </div>
        <SignInForm />
      </div>
    </main>
  );
}
