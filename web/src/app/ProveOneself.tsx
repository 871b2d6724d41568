import { useRef, useState } from "react";
import { useProof } from "../api/people";
import { giveUp, resume } from "../api/session";
import { Button, Refused } from "../shared/controls";
import { PasswordInput, WhoseForm } from "../shared/PasswordInput";
import { AskedOver } from "./AskedOver";

/** The password once more, before something that weighs much. */
export function ProveOneself() {
  const [password, setPassword] = useState("");
  const proof = useProof();
  const field = useRef<HTMLInputElement>(null);
  return (
    <AskedOver
      title="Your password once more"
      words="What you are about to do weighs much. It goes on when you have given it."
      onGiveUp={giveUp}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (proof.isPending) return;
          proof.mutate(password, { onSuccess: resume, onError: () => field.current?.select() });
        }}
      >
        <WhoseForm />
        <PasswordInput
          label="Password"
          autoFocus
          ref={field}
          value={password}
          onChange={setPassword}
        />
        <div className="flex gap-2">
          <Button type="submit" tone="main" aria-busy={proof.isPending}>
            Go on
          </Button>
          <Button onClick={giveUp}>Not now</Button>
        </div>
        <div className="mt-3 min-h-9">
          <Refused error={proof.error} />
        </div>
      </form>
    </AskedOver>
  );
}
