import { Button } from "../kit/Button";

/**
 * Instead of a screen that could not be shown: most often Hornfels was renewed meanwhile and its
 * files have other names.
 */
export function OutOfDate() {
  return (
    <main className="grid h-full place-content-center justify-items-center gap-2 p-4 text-center">
      <h1 className="text-xl">This screen could not be shown</h1>
      <p className="max-w-md text-soft">
        Hornfels may have been renewed meanwhile, or the connection broke off. What you typed in
        this tab is kept.
      </p>
      <Button tone="main" onClick={() => window.location.reload()}>
        Load it again
      </Button>
    </main>
  );
}
