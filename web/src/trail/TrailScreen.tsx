import type { Schemas } from "../api/client";
import { useTrailFile, useTrail } from "../api/trail";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { Select, TextInput } from "../kit/inputs";
import { VirtualList } from "../kit/VirtualList";
import { momentText } from "../shared/moments";
import { useTitle } from "../shared/useTitle";
import { useAddress, useUrlState } from "../shared/useUrlState";

/** Beginnings of deeds, as they are asked for. */
const DEEDS = [
  ["", "every deed"],
  ["draft", "drafts"],
  ["directory", "loads"],
  ["sign-in", "signing in"],
  ["refused", "refusals"],
  ["exported", "exports"],
  ["unlocking", "unlocking"],
  ["must change", "another password"],
  ["role", "roles"],
  ["act", "acts of two people"],
] as const;

/** Who did what, from where, before and after. */
export function TrailScreen() {
  const [person] = useUrlState("person");
  const [domain] = useUrlState("of");
  const [what] = useUrlState("deed");
  const [words] = useUrlState("words");
  const [, change] = useAddress();
  const asked = Object.fromEntries(
    Object.entries({ person, domain, what, words }).filter(([, value]) => value),
  );
  const trail = useTrail(asked);
  const file = useTrailFile();
  useTitle("Trail");
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 pt-2.5 pb-2 small:px-2 small:pt-1">
        <h1 className="text-base">Trail</h1>
        <TextInput
          type="search"
          aria-label="Entries with these words"
          placeholder="Words in it"
          className="w-44"
          value={words}
          onChange={(event) => change({ words: event.target.value }, true)}
        />
        <Select
          aria-label="Which deeds"
          value={what}
          onChange={(event) => change({ deed: event.target.value })}
        >
          {DEEDS.map(([value, label]) => (
            <option key={value} value={value}>
              {label}
            </option>
          ))}
        </Select>
        <TextInput
          aria-label="Of this person"
          placeholder="Person"
          className="w-32"
          value={person}
          onChange={(event) => change({ person: event.target.value }, true)}
        />
        <TextInput
          aria-label="In this domain"
          placeholder="Domain"
          className="w-44"
          value={domain}
          onChange={(event) => change({ of: event.target.value }, true)}
        />
        <Button className="ml-auto" disabled={file.isPending} onClick={() => file.mutate(asked)}>
          {file.isPending ? "Exporting …" : "Export as JSON lines"}
        </Button>
      </div>
      <Refusal error={file.error} />
      {trail.isPending ? (
        <Loading what="the trail" />
      ) : trail.error ? (
        <Failure error={trail.error} retry={() => void trail.refetch()} />
      ) : (
        <Entries
          entries={trail.data.pages.flatMap((page) => page.entries)}
          more={trail.hasNextPage}
          busy={trail.isFetchingNextPage}
          onMore={() => void trail.fetchNextPage()}
        />
      )}
    </div>
  );
}

interface EntriesProps {
  entries: Schemas["EntryInfo"][];
  more: boolean;
  busy: boolean;
  onMore: () => void;
}

function Entries({ entries, more, busy, onMore }: EntriesProps) {
  return (
    <VirtualList
      label="Entries"
      items={entries}
      keyOf={(entry) => entry.id}
      className="min-h-0 flex-1 px-4 pb-3 small:px-2"
      before={entries.length === 0 && <p className="py-4 text-soft">No entry is like this.</p>}
      after={
        more && (
          <Button disabled={busy} onClick={onMore}>
            {busy ? "Reading …" : "Earlier ones"}
          </Button>
        )
      }
    >
      {(entry) => <Entry entry={entry} />}
    </VirtualList>
  );
}

function Entry({ entry }: { entry: Schemas["EntryInfo"] }) {
  const told = Object.keys(entry.detail).length > 0;
  const { reason } = entry.detail;
  const line = (
    <>
      <span className="font-mono text-xs text-soft">{entry.id}</span> <b>{entry.person}</b>{" "}
      {entry.what} {entry.about}
      {entry.domain && <span className="text-soft"> in {entry.domain}</span>}
      {typeof reason === "string" && <span className="text-soft">: {reason}</span>}
      <span className="block text-xs text-soft">
        {momentText(entry.at)}
        {entry.address && ` from ${entry.address}`}
        {entry.request && `, request ${entry.request}`}
      </span>
    </>
  );
  if (!told) return <div className="break-words">{line}</div>;
  return (
    <details>
      <summary className="cursor-pointer list-inside break-words">{line}</summary>
      <Sentences head="" said={entry.detail.said} />
      <Sentences head="No longer" said={entry.detail.no_longer} />
      <pre
        tabIndex={0}
        className="mt-1 max-h-64 overflow-auto rounded bg-paper p-2 font-mono text-xs whitespace-pre-wrap"
      >
        {JSON.stringify(entry.detail, null, 2)}
      </pre>
    </details>
  );
}

/** What was done in words, where the entry has them. */
function Sentences({ head, said }: { head: string; said: unknown }) {
  if (!Array.isArray(said) || said.length === 0) return null;
  return (
    <>
      {head && <p className="pt-1 text-xs text-soft">{head}</p>}
      <ul className="list-inside list-disc py-1">
        {(said as string[]).map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
    </>
  );
}
