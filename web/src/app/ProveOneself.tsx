import { useRef, useState } from "react";
import { useMe, useProof } from "../api/people";
import { giveUp, resume } from "../api/session";
import { Button, Refused } from "../shared/controls";
import { PasswordInput, WhoseForm } from "../shared/PasswordInput";
import { AskedOver } from "./AskedOver";
import { ProviderButton } from "./ProviderButton";

/** The password once more, or another look by the provider, before something that weighs much. */
export function ProveOneself() {
  const elsewhere = useMe().data?.elsewhere ?? false;
  return elsewhere ? (
    <AskedOver
      title="Show once more who you are"
      words="What you are about to do weighs much. It goes on when you have."
      onGiveUp={giveUp}
    >
      <ProviderButton beside="again" />
      <Button className="mt-3" onClick={giveUp}>
        Not now
      </Button>
    </AskedOver>
  ) : (
    <PasswordOnceMore />
  );
}

function PasswordOnceMore() {
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
