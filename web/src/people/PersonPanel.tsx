import { useState } from "react";
import type { Schemas } from "../api/client";
import { useChangeRole, useChangeSignIn, useMe } from "../api/people";
import { PanelHead } from "../editor/PanelHead";
import { announce } from "../shared/announce";
import { Button, Notice, Refused } from "../shared/controls";
import { Select, TextInput } from "../shared/fields";
import { PartHead } from "../shared/PartHead";
import { OneTime } from "./OneTime";
import { whereText } from "./where";

type Role = Schemas["Held"]["role"];

interface Props {
  person: Schemas["PersonInfo"];
  roles: Role[];
  domains: string[];
  onClose: () => void;
}

/** One person: their roles, given and taken, and their way in. */
export function PersonPanel({ person, roles, domains, onClose }: Props) {
  const { name } = person;
  const provider = useMe().data?.provider ?? "";
  const change = useChangeRole();
  const signIn = useChangeSignIn();
  const [role, setRole] = useState<Role>("viewer");
  const [domain, setDomain] = useState(domains[0] ?? "*");
  const [reason, setReason] = useState("");
  const busy = change.isPending || signIn.isPending;
  const latest = signIn.data ?? change.data;
  const done = () => {
    setReason((now) => (now === reason ? "" : now));
    announce("Done.");
  };
  const begin = () => {
    change.reset();
    signIn.reset();
  };
  return (
    <div>
      <PanelHead title={name} detail="What they may do, and their way in" onClose={onClose} />
      <div className="space-y-4 px-4 pb-4">
        <section aria-label="Roles held">
          <PartHead>May do as</PartHead>
          {person.grants.length === 0 && (
            <p className="py-1 text-soft">Nothing yet: every screen says so.</p>
          )}
          <ul>
            {person.grants.map((held) => (
              <li
                key={held.role + held.domain}
                className="flex items-center gap-2 border-b border-line/60 py-1"
              >
                <span className="min-w-0 flex-1">
                  {held.role} {whereText(held.domain)}
                </span>
                <Button
                  size="small"
                  disabled={busy}
                  onClick={() => {
                    begin();
                    change.mutate({ name, ...held, held: false, reason }, { onSuccess: done });
                  }}
                >
                  Take it away
                  <span className="sr-only">
                    : {held.role} {whereText(held.domain)}
                  </span>
                </Button>
              </li>
            ))}
          </ul>
        </section>
        <label className="block">
          <span className="block">Why</span>
          <TextInput
            className="w-full"
            placeholder="It stands in the trail"
            maxLength={500}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
        </label>
        <form
          aria-label="Give a role"
          className="space-y-1.5"
          onSubmit={(event) => {
            event.preventDefault();
            begin();
            change.mutate({ name, domain, role, held: true, reason }, { onSuccess: done });
          }}
        >
          <div className="flex flex-wrap items-center gap-1.5">
            <Select
              aria-label="Role"
              value={role}
              onChange={(event) => setRole(event.target.value as Role)}
            >
              {roles.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </Select>
            <Select
              aria-label="Where"
              className="w-32 flex-auto"
              value={domain}
              onChange={(event) => setDomain(event.target.value)}
            >
              {domains.map((one) => (
                <option key={one} value={one}>
                  {whereText(one)}
                </option>
              ))}
            </Select>
            <Button type="submit" disabled={busy}>
              Give it
            </Button>
          </div>
        </form>
        {domains.includes("*") && (
          <div className="flex flex-wrap gap-2">
            <Button
              disabled={busy}
              onClick={() => {
                begin();
                signIn.mutate({ name, what: "reset", reason }, { onSuccess: done });
              }}
            >
              Give a one-time password
            </Button>
            {provider && !person.elsewhere && (
              <Button
                disabled={busy}
                onClick={() => {
                  begin();
                  signIn.mutate({ name, what: "elsewhere", reason }, { onSuccess: done });
                }}
              >
                Send to {provider}
              </Button>
            )}
            <Button
              tone={person.shut ? undefined : "danger"}
              disabled={busy}
              onClick={() => {
                begin();
                const what = person.shut ? "let in" : "shut";
                signIn.mutate({ name, what, reason }, { onSuccess: done });
              }}
            >
              {person.shut ? "Let in again" : "Shut out"}
            </Button>
          </div>
        )}
        <Refused error={change.error ?? signIn.error} />
        {latest?.waits && (
          <Notice tone="warn" role="status">
            It waits until a second person has confirmed it.
          </Notice>
        )}
        {latest?.one_time && <OneTime name={name} password={latest.one_time} />}
      </div>
    </div>
  );
}
