import { useState } from "react";
import { useParams } from "react-router";
import { useConnect, useDisconnect, useTryConnection } from "../api/directories";
import { at } from "../draft/place";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Check } from "../kit/Check";
import { Confirmation } from "../kit/Confirmation";
import { Field } from "../kit/Field";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { TextInput } from "../kit/inputs";
import { Loading } from "../kit/Loading";
import { announce } from "../shared/announce";
import { connectionOf, type Typed } from "./connection";
import { Doors } from "./Doors";
import { ServerFields } from "./ServerFields";
import { SignerFields } from "./SignerFields";
import { WhatWorks } from "./WhatWorks";

const SHOWN = [
  "servers",
  "security",
  "authorities",
  "pinned",
  "reader",
  "writer",
  "stage",
  "doors",
  "every",
  "reason",
] as const;

interface Props {
  domain: string;
  version: number;
  held: Typed;
  onClose: () => void;
}

export function ConnectionForm({ domain, version, held, onClose }: Props) {
  const { domain: place = "-" } = useParams();
  const [gone, setGone] = useState(false);
  const tried = useTryConnection(domain);
  const save = useConnect(domain);
  const drop = useDisconnect(domain);
  const form = useForm<Typed>({
    work: {
      place,
      about: `connection of ${domain}`,
      label: `Connection of ${domain}`,
      to: `/${at(place)}/sources?connect=${encodeURIComponent(domain)}`,
    },
    start: held,
    writes: [save, tried, drop],
    shows: SHOWN,
  });
  const { value: typed, busy } = form;
  const change = (part: Partial<Typed>) => {
    // What was tried or saved is not what is typed now.
    tried.reset();
    save.reset();
    form.change(part);
  };
  const submit = () => {
    tried.reset();
    form.send(
      () => save.mutateAsync({ connection: connectionOf(typed), version, reason: typed.reason }),
      ({ waits }, sent) => {
        form.saved(sent);
        announce(waits ? "It waits for a second person." : "Saved.");
      },
    );
  };
  return (
    <Form of={form} label="Connection" className="space-y-2.5" onSubmit={submit}>
      <ServerFields domain={domain} form={{ ...form, change }} />
      <SignerFields form={{ ...form, change }} />
      <Doors
        doors={typed.doors}
        wrong={form.errorOf("doors")}
        onChange={(doors) => change({ doors })}
      />
      <div>
        <Check checked={typed.ownPage} onChange={(on) => change({ ownPage: on })}>
          Its people have a page of their own
        </Check>
        <p className="text-xs break-words text-soft">
          At {window.location.origin}/you everybody sees what holds for their password and changes
          it, by the password of the directory.
        </p>
      </div>
      <Field label="Read again by itself every so many minutes" problem={form.errorOf("every")}>
        <TextInput
          className="w-24"
          type="number"
          min={1}
          max={10_080}
          placeholder="never"
          value={typed.every}
          onChange={(event) => change({ every: event.target.value })}
        />
      </Field>
      <Field label="Why" problem={form.errorOf("reason")}>
        <TextInput
          className="w-full"
          placeholder="It stands in the trail"
          maxLength={500}
          value={typed.reason}
          onChange={(event) => change({ reason: event.target.value })}
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
        <Confirmation
          tone="danger"
          act="Disconnect it"
          busy={busy}
          onAct={() =>
            drop.mutate(typed.reason, {
              onSuccess: () => {
                form.reset();
                onClose();
              },
            })
          }
          keep="Leave it"
          onKeep={() => setGone(false)}
        >
          What was read stays, and is read no more. Say why above.
        </Confirmation>
      )}
      <Refusal error={form.refusal} />
      {save.data && (
        <Alert tone={save.data.waits ? "warn" : "plain"} role="status">
          {save.data.waits
            ? "It waits until a second person has confirmed it (People)."
            : "✓ Saved. Read the directory on the left."}
        </Alert>
      )}
      {tried.isPending && <Loading what="what the servers say" />}
      {tried.data && <WhatWorks steps={tried.data} />}
    </Form>
  );
}
