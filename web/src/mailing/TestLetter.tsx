import { useState } from "react";
import { useTestLetter, type Mailing } from "../api/mailing";
import { Button, Refused } from "../shared/controls";
import { TextInput } from "../shared/fields";
import { PartHead } from "../shared/PartHead";

/** One letter to oneself, to see that they get out. */
export function TestLetter({ domain, mailing }: { domain: string; mailing: Mailing }) {
  const [address, setAddress] = useState("");
  const test = useTestLetter(domain);
  return (
    <section aria-label="A test letter">
      <PartHead>A test letter</PartHead>
      <form
        className="mt-1 flex gap-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          if (!test.isPending) test.mutate({ mailing, address });
        }}
      >
        <TextInput
          type="email"
          aria-label="Address for the test"
          placeholder="name@example.com"
          className="flex-1"
          required
          maxLength={254}
          value={address}
          onChange={(event) => {
            if (!test.isIdle) test.reset();
            setAddress(event.target.value);
          }}
        />
        <Button type="submit" aria-busy={test.isPending}>
          Send it
        </Button>
      </form>
      <p role="status" className="min-h-5 text-pass">
        {test.isSuccess && `✓ The mail server has taken it for ${test.variables.address}.`}
      </p>
      <Refused error={test.error} />
    </section>
  );
}
