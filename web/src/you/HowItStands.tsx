import type { Schemas } from "../api/client";
import { Alert } from "../kit/Alert";
import { letterDay, momentText } from "../shared/moments";

/** When the present password was set, how long it lasts and why, and what is in the way. */
export function HowItStands({ you }: { you: Schemas["OwnInfo"] }) {
  return (
    <section aria-label="Your present password" className="mb-4">
      <h2 className="mb-1 text-[17px]">Your present password</h2>
      <dl className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-4">
        <dt className="text-soft">Set</dt>
        <dd>{you.set_at ? momentText(you.set_at) : "it has to be changed now"}</dd>
        <dt className="text-soft">Lasts</dt>
        <dd>
          {you.ends_at ? (
            <>
              until <strong>{letterDay(you.ends_at)}</strong>. {you.ends_why}
            </>
          ) : (
            you.ends_why
          )}
        </dd>
      </dl>
      <div className="mt-2 space-y-2 empty:hidden">
        {you.must_change && (
          <Alert tone="warn">
            △ It lets you in nowhere any more. Choose another one here, then sign in with that.
          </Alert>
        )}
        {you.lock && (
          <Alert tone="fail">
            ✕ Your account is locked
            {you.lock.until
              ? ` until ${momentText(you.lock.until)}; then it opens by itself.`
              : ". Only the help desk can open it."}
          </Alert>
        )}
        {you.changes_from && (
          <Alert tone="warn">
            △ It is too new to be changed by yourself: you can from {momentText(you.changes_from)}{" "}
            on.
          </Alert>
        )}
      </div>
    </section>
  );
}
