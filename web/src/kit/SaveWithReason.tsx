import { useState } from "react";
import { announce } from "../shared/announce";
import { Alert } from "./Alert";
import { Button } from "./Button";
import { WaitsForSecond } from "./WaitsForSecond";
import { ReasonForm } from "./ReasonForm";

interface Props {
  /** Whether anything is typed that is not saved. */
  changed: boolean;
  /** Whether somebody else has saved since typing began. */
  overtaken: boolean;
  act?: string;
  busy: boolean;
  /** Save it with a reason; `done` is for afterwards, and told whether a second person has to agree. */
  onSave: (reason: string, done: (waits: boolean) => void) => void;
  /** It is not to be saved now. */
  onLeave: () => void;
  /** Give up what is typed for what is saved. */
  onTheirs: () => void;
  /** What comes of saving it. */
  children: string;
}

/** The end of a form that is saved with a reason, and never over what somebody else has saved. */
export function SaveWithReason({
  changed,
  overtaken,
  act = "Save",
  busy,
  onSave,
  onLeave,
  onTheirs,
  children,
}: Props) {
  const [asked, setAsked] = useState(false);
  const [waits, setWaits] = useState(false);
  return (
    <>
      <WaitsForSecond on={waits && !changed} />
      {changed && overtaken && (
        <Alert tone="warn">
          <p>Somebody else has saved this meanwhile. What you have typed is still here.</p>
          <Button className="mt-1.5" onClick={onTheirs}>
            Show theirs
          </Button>
        </Alert>
      )}
      {changed && !asked && !overtaken && (
        <Button tone="main" onClick={() => setAsked(true)}>
          Save …
        </Button>
      )}
      {asked && (
        <ReasonForm
          act={act}
          busy={busy}
          onAct={(reason) =>
            onSave(reason, (waits) => {
              setAsked(false);
              setWaits(waits);
              announce(waits ? "It waits for a second person." : "Saved.");
            })
          }
          onKeep={() => {
            onLeave();
            setAsked(false);
          }}
        >
          {children}
        </ReasonForm>
      )}
    </>
  );
}
