import { EmptyState } from "../kit/EmptyState";
import type { Schemas } from "../api/client";
import { useChangeRole, useChangeSignIn, useMe } from "../api/people";
import { PanelHead } from "../kit/PanelHead";
import { announce } from "../shared/announce";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Select, TextInput } from "../kit/inputs";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { PartHead } from "../kit/PartHead";
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
  const start = { role: "viewer" as Role, domain: domains[0] ?? "*", reason: "" };
  const form = useForm({ work: null, start, writes: [change, signIn] });
  const { role, domain, reason } = form.value;
  const busy = change.isPending || signIn.isPending;
  const latest = signIn.data ?? change.data;
  const send = <R,>(write: () => Promise<R>) => {
    change.reset();
    signIn.reset();
    form.send(write, (_, sent) => {
      form.saved(sent, { ...sent, reason: "" });
      announce("Done.");
    });
  };
  return (
    <div>
      <PanelHead title={name} detail="What they may do, and their way in" onClose={onClose} />
      <div className="space-y-4 px-4 pb-4">
        <section aria-label="Roles held">
          <PartHead>May do as</PartHead>
          {person.grants.length === 0 && (
            <EmptyState>Nothing yet: every screen says so.</EmptyState>
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
                  onClick={() =>
                    send(() => change.mutateAsync({ name, ...held, held: false, reason }))
                  }
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
            {...form.text("reason")}
          />
        </label>
        <Form
          of={form}
          label="Give a role"
          className="space-y-1.5"
          onSubmit={() =>
            send(() => change.mutateAsync({ name, domain, role, held: true, reason }))
          }
        >
          <div className="flex flex-wrap items-center gap-1.5">
            <Select
              aria-label="Role"
              value={role}
              onChange={(event) => form.change({ role: event.target.value as Role })}
            >
              {roles.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </Select>
            <Select aria-label="Where" className="w-32 flex-auto" {...form.text("domain")}>
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
        </Form>
        {domains.includes("*") && (
          <div className="flex flex-wrap gap-2">
            <Button
              disabled={busy}
              onClick={() => send(() => signIn.mutateAsync({ name, what: "reset", reason }))}
            >
              Give a one-time password
            </Button>
            {provider && !person.elsewhere && (
              <Button
                disabled={busy}
                onClick={() => send(() => signIn.mutateAsync({ name, what: "elsewhere", reason }))}
              >
                Send to {provider}
              </Button>
            )}
            <Button
              tone={person.shut ? undefined : "danger"}
              disabled={busy}
              onClick={() => {
                const what = person.shut ? "let in" : "shut";
                send(() => signIn.mutateAsync({ name, what, reason }));
              }}
            >
              {person.shut ? "Let in again" : "Shut out"}
            </Button>
          </div>
        )}
        <Refusal error={change.error ?? signIn.error} />
        {latest?.waits && (
          <Alert tone="warn" role="status">
            It waits until a second person has confirmed it.
          </Alert>
        )}
        {latest?.one_time && <OneTime name={name} password={latest.one_time} />}
      </div>
    </div>
  );
}
