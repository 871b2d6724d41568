import { useState } from "react";
import { ApiError } from "../api/client";
import {
  useConnect,
  useDirectory,
  useDisconnect,
  useTryConnection,
  type Connection,
} from "../api/directories";
import { useParams } from "react-router";
import { at } from "../draft/place";
import { PanelHead } from "../kit/PanelHead";
import { announce } from "../shared/announce";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Loading } from "../kit/Loading";
import { Select, TextArea, TextInput } from "../kit/inputs";
import { useKept } from "../shared/kept";
import { Field } from "../kit/Field";
import { PartHead } from "../kit/PartHead";
import { Doors, type Door } from "./Doors";
import { serversOf, serversText } from "./servers";

interface Typed {
  servers: string;
  security: NonNullable<Connection["security"]>;
  trust: "machine" | "authorities" | "pinned";
  authorities: string;
  pinned: string;
  bind: NonNullable<Connection["bind"]>;
  reader: { name: string; secret: string };
  writes: boolean;
  writer: { name: string; secret: string };
  publishes: boolean;
  every: string;
  doors: Door[];
  stage: string;
  ownPage: boolean;
  reason: string;
}

const START: Typed = {
  servers: "",
  security: "ldaps",
  trust: "machine",
  authorities: "",
  pinned: "",
  bind: "simple",
  reader: { name: "", secret: "" },
  writes: false,
  writer: { name: "", secret: "" },
  publishes: true,
  every: "",
  doors: [],
  stage: "",
  ownPage: false,
  reason: "",
};

const typedOf = (held: Connection): Typed => ({
  servers: serversText(held.servers),
  security: held.security ?? "ldaps",
  trust: held.pinned ? "pinned" : held.authorities ? "authorities" : "machine",
  authorities: held.authorities ?? "",
  pinned: held.pinned ?? "",
  bind: held.bind ?? "simple",
  reader: { name: held.reader?.name ?? "", secret: held.reader?.secret ?? "" },
  writes: Boolean(held.writer),
  writer: { name: held.writer?.name ?? "", secret: held.writer?.secret ?? "" },
  publishes: held.publishes ?? true,
  every: held.every ? String(held.every) : "",
  doors: held.doors ?? [],
  stage: held.stage ?? "",
  ownPage: held.own_page ?? false,
  reason: "",
});

const connectionOf = (typed: Typed): Connection => ({
  servers: serversOf(typed.servers),
  security: typed.security,
  authorities: typed.trust === "authorities" ? typed.authorities : "",
  pinned: typed.trust === "pinned" ? typed.pinned : "",
  bind: typed.bind,
  reader: typed.reader,
  writer: typed.writes ? typed.writer : null,
  publishes: typed.publishes,
  every: typed.every.trim() ? Number(typed.every) : null,
  doors: typed.doors,
  stage: typed.writes ? typed.stage.trim() : "",
  own_page: typed.ownPage,
});

const MARKS = { works: "✓", fails: "✕", note: "△" } as const;
const TONES = { works: "", fails: "text-fail", note: "text-warn" } as const;

/** How a domain's directory is reached: typed, tried step by step, saved. */
export function ConnectionPanel({ domain, onClose }: { domain: string; onClose: () => void }) {
  const directory = useDirectory(domain);
  const { data } = directory;
  return (
    <div>
      <PanelHead title={domain} detail="How its directory is reached" onClose={onClose} />
      <div className="px-4 pb-4">
        {directory.error && <Refusal error={directory.error} />}
        {directory.isPending && <Loading what="the connection" />}
        {data && (
          <ConnectionForm
            domain={domain}
            version={data.version}
            held={data.connection ? typedOf(data.connection) : START}
            onClose={onClose}
          />
        )}
      </div>
    </div>
  );
}

interface Props {
  domain: string;
  version: number;
  held: Typed;
  onClose: () => void;
}

function ConnectionForm({ domain, version, held, onClose }: Props) {
  const { domain: place = "-" } = useParams();
  const [typed, setTyped, forget] = useKept<Typed>(
    {
      place,
      about: `connection of ${domain}`,
      label: `Connection of ${domain}`,
      to: `/${at(place)}/sources?connect=${encodeURIComponent(domain)}`,
    },
    held,
    (value) => JSON.stringify(value) === JSON.stringify(held),
  );
  const [gone, setGone] = useState(false);
  const tried = useTryConnection(domain);
  const save = useConnect(domain);
  const drop = useDisconnect(domain);
  const failed = save.error ?? tried.error ?? drop.error;
  const fields = failed instanceof ApiError ? failed.fields : [];
  const wrong = (...names: string[]) =>
    fields.find(({ field }) =>
      names.some((name) => field.replace("connection.", "").startsWith(name)),
    )?.message;
  const set = (part: Partial<Typed>) => {
    tried.reset();
    save.reset();
    setTyped({ ...typed, ...part });
  };
  const busy = tried.isPending || save.isPending || drop.isPending;
  return (
    <form
      aria-label="Connection"
      className="space-y-2.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (busy) return;
        tried.reset();
        save.mutate(
          { connection: connectionOf(typed), version, reason: typed.reason },
          {
            onSuccess: ({ waits }) => {
              forget(typed);
              announce(waits ? "It waits for a second person." : "Saved.");
            },
          },
        );
      }}
    >
      <Field label="Servers, one a line, tried in this order" wrong={wrong("servers")}>
        <TextArea
          data-first
          rows={3}
          placeholder={`dc1.${domain}`}
          value={typed.servers}
          onChange={(event) => set({ servers: event.target.value })}
        />
      </Field>
      <Field label="Encryption" wrong={wrong("security")}>
        <Select
          className="w-full"
          value={typed.security}
          onChange={(event) => set({ security: event.target.value as Typed["security"] })}
        >
          <option value="ldaps">TLS from the start (LDAPS, port 636)</option>
          <option value="starttls">StartTLS (port 389)</option>
          <option value="none">
            {typed.bind === "gssapi"
              ? "by Kerberos (port 389)"
              : "none: whoever is on the way reads passwords"}
          </option>
        </Select>
      </Field>
      <Field label="Certificates that are trusted" wrong={wrong("authorities", "pinned")}>
        <Select
          className="w-full"
          value={typed.trust}
          onChange={(event) => set({ trust: event.target.value as Typed["trust"] })}
        >
          <option value="machine">by the authorities of this machine</option>
          <option value="authorities">by these authorities</option>
          <option value="pinned">this one certificate</option>
        </Select>
      </Field>
      {typed.trust === "authorities" && (
        <label className="block">
          <span className="block">Their certificates (PEM)</span>
          <TextArea
            className="font-mono text-xs"
            rows={4}
            value={typed.authorities}
            onChange={(event) => set({ authorities: event.target.value })}
          />
        </label>
      )}
      {typed.trust === "pinned" && (
        <label className="block">
          <span className="block">Its SHA-256, in hexadecimal</span>
          <TextInput
            className="w-full font-mono"
            value={typed.pinned}
            onChange={(event) => set({ pinned: event.target.value })}
          />
        </label>
      )}
      <Field label="Signs in" wrong={undefined}>
        <Select
          className="w-full"
          value={typed.bind}
          onChange={(event) => {
            const bind = event.target.value as Typed["bind"];
            // With a ticket Kerberos itself encrypts.
            set({ bind, security: bind === "gssapi" ? "none" : "ldaps" });
          }}
        >
          <option value="simple">by name and password</option>
          <option value="gssapi">by a Kerberos ticket of this machine</option>
        </Select>
      </Field>
      {typed.bind === "simple" && (
        <SignerFields
          who="Who reads"
          value={typed.reader}
          wrong={wrong("reader")}
          onChange={(reader) => set({ reader })}
        />
      )}
      <label className="flex min-h-6 items-center gap-1.5">
        <input
          type="checkbox"
          checked={typed.writes}
          onChange={(event) => set({ writes: event.target.checked })}
        />
        Somebody may write too
      </label>
      {typed.writes && typed.bind === "simple" && (
        <SignerFields
          who="Who writes"
          value={typed.writer}
          wrong={wrong("writer")}
          onChange={(writer) => set({ writer })}
        />
      )}
      {typed.writes && (
        <Field label="Publishing" wrong={undefined}>
          <Select
            className="w-full"
            value={typed.publishes ? "writes" : "files"}
            onChange={(event) => set({ publishes: event.target.value === "writes" })}
          >
            <option value="writes">writes policies into the directory</option>
            <option value="files">gives files, to be applied by hand</option>
          </Select>
        </Field>
      )}
      {typed.writes && (
        <Field label="Accounts to rehearse with are made in (none if empty)" wrong={wrong("stage")}>
          <TextInput
            className="w-full"
            placeholder="OU=…,DC=…"
            maxLength={4096}
            value={typed.stage}
            onChange={(event) => set({ stage: event.target.value })}
          />
        </Field>
      )}
      <Doors doors={typed.doors} wrong={wrong("doors")} onChange={(doors) => set({ doors })} />
      <div>
        <label className="flex min-h-6 items-center gap-1.5">
          <input
            type="checkbox"
            checked={typed.ownPage}
            onChange={(event) => set({ ownPage: event.target.checked })}
          />
          Its people have a page of their own
        </label>
        <p className="text-xs break-words text-soft">
          At {window.location.origin}/you everybody sees what holds for their password and changes
          it, by the password of the directory.
        </p>
      </div>
      <Field label="Read again by itself every so many minutes" wrong={wrong("every")}>
        <TextInput
          className="w-24"
          type="number"
          min={1}
          max={10_080}
          placeholder="never"
          value={typed.every}
          onChange={(event) => set({ every: event.target.value })}
        />
      </Field>
      <Field label="Why" wrong={wrong("reason")}>
        <TextInput
          className="w-full"
          placeholder="It stands in the trail"
          maxLength={500}
          value={typed.reason}
          onChange={(event) => set({ reason: event.target.value })}
        />
      </Field>
      <div className="flex flex-wrap gap-2">
        <Button type="submit" tone="main" aria-busy={save.isPending}>
          Save
        </Button>
        <Button
          aria-busy={tried.isPending}
          onClick={() => {
            if (busy) return;
            save.reset();
            tried.mutate(connectionOf(typed));
          }}
        >
          Try it
        </Button>
        {version > 0 && (
          <Button tone="danger" disabled={busy} onClick={() => setGone(true)}>
            Disconnect …
          </Button>
        )}
      </div>
      {gone && (
        <Alert tone="warn">
          <p>What was read stays, and is read no more. Say why above.</p>
          <div className="mt-1.5 flex gap-2">
            <Button
              tone="danger"
              disabled={busy}
              onClick={() =>
                drop.mutate(typed.reason, {
                  onSuccess: () => {
                    forget();
                    onClose();
                  },
                })
              }
            >
              Disconnect it
            </Button>
            <Button onClick={() => setGone(false)}>Leave it</Button>
          </div>
        </Alert>
      )}
      {fields.length === 0 && <Refusal error={failed} />}
      {save.data && (
        <Alert tone={save.data.waits ? "warn" : "plain"} role="status">
          {save.data.waits
            ? "It waits until a second person has confirmed it (People)."
            : "✓ Saved. Read the directory on the left."}
        </Alert>
      )}
      {tried.isPending && <Loading what="what the servers say" />}
      {tried.data && (
        <section aria-label="What works" role="status">
          <PartHead>What works</PartHead>
          <ul>
            {tried.data.map((step, number) => (
              <li key={number} className={`border-b border-line/60 py-1 ${TONES[step.state]}`}>
                {MARKS[step.state]} {step.title}
                <span className="block text-xs break-words">{step.told}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </form>
  );
}

interface SignerProps {
  who: string;
  value: { name: string; secret: string };
  wrong: string | undefined;
  onChange: (value: { name: string; secret: string }) => void;
}

function SignerFields({ who, value, wrong, onChange }: SignerProps) {
  return (
    <fieldset>
      <legend>{who}</legend>
      <div className="grid gap-1.5">
        <TextInput
          aria-label={`${who}: account`}
          placeholder="name@domain"
          value={value.name}
          onChange={(event) => onChange({ ...value, name: event.target.value })}
        />
        <TextInput
          aria-label={`${who}: what its secret is called`}
          placeholder="name of its secret"
          value={value.secret}
          onChange={(event) => onChange({ ...value, secret: event.target.value })}
        />
      </div>
      <p className="text-xs text-soft">
        The secret itself is kept on the machine, in the file secrets/… of Hornfels or in
        HORNFELS_SECRET_….
      </p>
      {wrong && (
        <p role="alert" className="text-xs text-fail">
          {wrong}
        </p>
      )}
    </fieldset>
  );
}
