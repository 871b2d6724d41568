import { useState } from "react";
import type { Schemas } from "../api/client";
import { useDomains } from "../api/domains";
import { useDropToken, useMakeToken, useMe, useTokens, type Right } from "../api/people";
import { Alert, Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { Select, TextInput } from "../kit/inputs";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { momentText } from "../shared/moments";
import { awayText } from "../shared/span";

/** What a token may be for, as people say it. */
const RIGHTS: Partial<Record<Right, string>> = {
  see: "look",
  bench: "try",
  unlock: "unlock",
  draft: "draft",
  approve: "approve",
  publish: "publish",
  load: "load",
  settings: "settings",
  trail: "trail",
};

/** Tokens by which scripts act for oneself. */
export function Tokens() {
  const tokens = useTokens();
  const drop = useDropToken();
  const [made, setMade] = useState<Schemas["TokenMade"] | null>(null);
  if (tokens.isPending) return <Loading what="your tokens" />;
  if (tokens.error) return <Failure error={tokens.error} retry={() => void tokens.refetch()} />;
  return (
    <section aria-label="Tokens">
      <h2 className="text-sm">Tokens for scripts</h2>
      <p className="text-soft">
        A script sends one as <code className="font-mono">Authorization: Bearer …</code>. It does at
        most what you may do.
      </p>
      {made && (
        <Alert role="status">
          <p>
            ✓ The token “{made.token.title}”, shown this once:
            <code className="mt-1 block font-mono break-all select-all">{made.text}</code>
          </p>
          <Button size="small" className="mt-1.5" onClick={() => setMade(null)}>
            I have it
          </Button>
        </Alert>
      )}
      <ul>
        {tokens.data.map((one) => (
          <li key={one.id} className="flex items-center gap-3 border-b border-line/60 py-1">
            <span className="min-w-0 flex-1">
              <span className="block truncate" title={one.title}>
                {one.title}
              </span>
              <span className="block text-xs text-soft">
                {one.rights.map((right) => RIGHTS[right] ?? right).join(", ")} in{" "}
                {one.domain === "*" ? "every domain" : one.domain} ·{" "}
                {one.used_at ? `used ${awayText(one.used_at)}` : "never used"} ·{" "}
                {one.ended ? "has ended" : `ends ${momentText(one.ends_at)}`}
              </span>
            </span>
            <Button size="small" disabled={drop.isPending} onClick={() => drop.mutate(one.id)}>
              Drop
            </Button>
          </li>
        ))}
      </ul>
      <Refusal error={drop.error} />
      <NewToken onMade={setMade} />
    </section>
  );
}

const START = { title: "", chosen: "", rights: ["see"] as Right[], days: "90" };

function NewToken({ onMade }: { onMade: (made: Schemas["TokenMade"]) => void }) {
  const me = useMe().data;
  const domains = useDomains().data ?? [];
  const make = useMakeToken();
  const form = useForm({ work: null, start: START, writes: [make] });
  const { title, chosen, rights, days } = form.value;
  const everywhere = (me?.everywhere.length ?? 0) > 0;
  const domain = chosen || (everywhere ? "*" : (domains[0]?.dns_name ?? ""));
  const held =
    domain === "*"
      ? (me?.everywhere ?? [])
      : (domains.find((one) => one.dns_name === domain)?.rights ?? []);
  const offered = held.filter((right) => right in RIGHTS);
  if (offered.length === 0) return null;
  return (
    <Form
      of={form}
      label="New token"
      className="mt-2 flex flex-wrap items-center gap-x-3 gap-y-1.5"
      onSubmit={() => {
        const asked = rights.filter((right) => offered.includes(right));
        form.send(
          () =>
            make.mutateAsync({
              title: title.trim(),
              domain,
              rights: asked,
              days: Number(days) || 0,
            }),
          (made, sent) => {
            form.saved(sent, { ...sent, title: "" });
            onMade(made);
          },
        );
      }}
    >
      <TextInput
        aria-label="What the token is for"
        placeholder="What it is for"
        className="w-48"
        maxLength={100}
        required
        {...form.text("title")}
      />
      <label className="flex min-w-0 items-center gap-1.5">
        in
        <Select value={domain} onChange={(event) => form.change({ chosen: event.target.value })}>
          {everywhere && <option value="*">every domain</option>}
          {domains.map((one) => (
            <option key={one.dns_name}>{one.dns_name}</option>
          ))}
        </Select>
      </label>
      <label className="flex items-center gap-1.5">
        for
        <TextInput
          className="w-14 text-right font-mono"
          inputMode="numeric"
          {...form.text("days")}
        />
        days
      </label>
      <fieldset className="flex w-full flex-wrap gap-x-3">
        <legend className="sr-only">What it may do</legend>
        {offered.map((right) => (
          <label key={right} className="flex min-h-6 items-center gap-1">
            <input
              type="checkbox"
              checked={rights.includes(right)}
              onChange={(event) =>
                form.change({
                  rights: event.target.checked
                    ? [...rights, right]
                    : rights.filter((one) => one !== right),
                })
              }
            />
            {RIGHTS[right]}
          </label>
        ))}
      </fieldset>
      <Button type="submit" disabled={make.isPending}>
        Make a token
      </Button>
      <Refusal error={make.error} />
    </Form>
  );
}
