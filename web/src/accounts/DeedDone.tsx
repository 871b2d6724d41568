import type { Schemas } from "../api/client";
import { unlockingFile, useUnlockingRead } from "../api/locks";
import { Refusal } from "../kit/Alert";
import { ButtonLink } from "../kit/Button";

/** What came of something done to accounts: done in the directory, or to be carried out by hand. */
export function DeedDone({ domain, done }: { domain: string; done: Schemas["UnlockingInfo"] }) {
  useUnlockingRead(done.job ?? null);
  if (done.told)
    return (
      <div id="unlocking-done" tabIndex={-1}>
        <Refusal error={`The directory did not do it for all of them. ${done.told}`} />
      </div>
    );
  if (done.told === "")
    return (
      <p id="unlocking-done" tabIndex={-1}>
        ✓ Done in the directory, which is read again now.
      </p>
    );
  return (
    <p className="flex flex-wrap items-center gap-x-2">
      ✓ Written into the history. No directory is connected that Hornfels may write, so it is
      carried out by hand:
      <ButtonLink id="unlocking-done" href={unlockingFile(domain, done.point)} download>
        Change record (LDIF)
      </ButtonLink>
    </p>
  );
}
