import { useRef, useState } from "react";
import { ApiError } from "../api/client";
import { useComeIn } from "../api/you";
import { Button, Refused } from "../shared/controls";
import { Select, TextInput } from "../shared/fields";
import { SecretField } from "./SecretField";

/** Name and password of the directory; who was here before is not asked for the name. */
export function ComeIn({ domains, known }: { domains: string[]; known?: string }) {
  const [name, setName] = useState(known ?? "");
  const [password, setPassword] = useState("");
  const [domain, setDomain] = useState("");
  const come = useComeIn();
  const field = useRef<HTMLInputElement>(null);
  const fields = come.error instanceof ApiError ? come.error.fields : [];
  const chosen = domains.length === 1 ? domains[0] : domain;
  return (
    <form
      aria-label="Sign in"
      onSubmit={(event) => {
        event.preventDefault();
        if (come.isPending) return;
        come.mutate(
          { name, password, domain: chosen || null },
          { onError: () => field.current?.select() },
        );
      }}
    >
      {known !== undefined ? (
        <input type="text" autoComplete="username" value={known} readOnly hidden />
      ) : (
        <label className="mb-3 block">
          <span className="mb-1 block font-medium">Name</span>
          <TextInput
            size="large"
            className="w-full"
            autoFocus
            autoComplete="username"
            maxLength={400}
            value={name}
            onChange={(event) => setName(event.target.value)}
            required
          />
        </label>
      )}
      {domains.length > 1 && (
        <label className="mb-3 block">
          <span className="mb-1 block font-medium">Domain</span>
          <Select
            className="w-full"
            value={domain}
            onChange={(event) => setDomain(event.target.value)}
          >
            <option value="">as behind the @ of the name</option>
            {domains.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </Select>
        </label>
      )}
      <SecretField
        label="Password"
        ref={field}
        autoFocus={known !== undefined}
        value={password}
        onChange={setPassword}
      />
      <Button
        type="submit"
        tone="main"
        size="large"
        className="mt-4 w-full justify-center"
        aria-busy={come.isPending}
      >
        Sign in
      </Button>
      <p className="mt-3 text-sm text-soft">
        With what you sign in to your computer with, also if it has expired.
      </p>
      <div className="mt-2 min-h-9">
        <Refused error={fields[0]?.message ?? come.error} />
      </div>
    </form>
  );
}
