import { useState } from "react";
import { useSignIn } from "../api/queries";
import { Button, Notice } from "../shared/controls";
import { Mark } from "./Mark";

export function SignIn() {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const signIn = useSignIn();
  return (
    <main className="grid h-full place-content-center">
      <form
        className="w-80 rounded-lg border border-line bg-sheet p-6"
        onSubmit={(event) => {
          event.preventDefault();
          signIn.mutate({ name, password });
        }}
      >
        <div className="mb-4 flex items-center gap-3">
          <Mark size={40} />
          <div>
            <h1 className="text-lg leading-6">Hornfels</h1>
            <p className="text-soft">Which policy holds for whom, and why.</p>
          </div>
        </div>
        <label className="mb-3 block">
          <span className="mb-1 block font-medium">Name</span>
          <input
            className="h-8 w-full rounded-[5px] border border-edge px-2.5"
            autoFocus
            autoComplete="username"
            value={name}
            onChange={(event) => setName(event.target.value)}
            required
          />
        </label>
        <label className="mb-4 block">
          <span className="mb-1 block font-medium">Password</span>
          <input
            className="h-8 w-full rounded-[5px] border border-edge px-2.5 font-mono"
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={(event) => setPassword(event.target.value)}
            required
          />
        </label>
        <Button type="submit" tone="main" className="h-8 w-full justify-center" disabled={signIn.isPending}>
          Sign in
        </Button>
        <div className="mt-3 min-h-9">
          {signIn.error && (
            <Notice tone="fail" role="alert">
              {signIn.error.message}
            </Notice>
          )}
        </div>
      </form>
    </main>
  );
}
