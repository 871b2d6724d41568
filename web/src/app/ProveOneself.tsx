import { useRef } from "react";
import { useMe, useProof } from "../api/people";
import { giveUp, resume } from "../api/session";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { SecretField } from "../kit/SecretField";
import { WhoseForm } from "../shared/WhoseForm";
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
  const proof = useProof();
  const form = useForm({ work: null, start: "", writes: [proof] });
  const field = useRef<HTMLInputElement>(null);
  return (
    <AskedOver
      title="Your password once more"
      words="What you are about to do weighs much. It goes on when you have given it."
      onGiveUp={giveUp}
    >
      <Form
        of={form}
        onSubmit={() =>
          proof.mutate(form.value, { onSuccess: resume, onError: () => field.current?.select() })
        }
      >
        <WhoseForm />
        <SecretField
          label="Password"
          className="mb-4"
          autoFocus
          ref={field}
          value={form.value}
          onChange={form.set}
        />
        <div className="flex gap-2">
          <Button type="submit" tone="main" aria-busy={proof.isPending}>
            Go on
          </Button>
          <Button onClick={giveUp}>Not now</Button>
        </div>
        <div className="mt-3 min-h-9">
          <Refusal error={proof.error} />
        </div>
      </Form>
    </AskedOver>
  );
}
