import { Link } from "react-router";
import { useDrafts, useOpenDraft } from "../api/drafts";
import { at, domainOf, placeOf } from "../draft/place";
import { Button, Failed, Loading, Refused } from "../shared/controls";
import { useKept } from "../shared/kept";
import { awayText, plural } from "../shared/span";
import { TextInput } from "../shared/fields";
import { May } from "../shared/May";

const untitled = (title: string) => title === "";

/** All open drafts of the domain, everybody's, and a way to begin another. */
export function DraftList({ place }: { place: string }) {
  const drafts = useDrafts(place);
  const open = useOpenDraft(place);
  const [title, setTitle, forget] = useKept<string>(
    {
      place: domainOf(place),
      about: "new draft",
      label: "A draft not opened yet",
      to: `/${at(domainOf(place))}/changes?view=drafts`,
    },
    "",
    untitled,
  );
  if (drafts.isPending) return <Loading what="the drafts" />;
  if (drafts.error) return <Failed error={drafts.error} retry={() => void drafts.refetch()} />;
  return (
    <div className="h-full max-w-[820px] overflow-y-auto px-4 pb-4 small:px-2">
      <May right="draft" at={place}>
        <form
          className="mb-3 flex flex-wrap items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void open.mutateAsync(title.trim()).then(
              () => forget(title),
              () => undefined,
            );
          }}
        >
          <label htmlFor="new-draft">New draft</label>
          <TextInput
            id="new-draft"
            value={title}
            maxLength={100}
            placeholder="What it is about"
            className="w-72"
            onChange={(event) => setTitle(event.target.value)}
          />
          <Button type="submit" tone="main" disabled={open.isPending}>
            Open
          </Button>
        </form>
      </May>
      <Refused error={open.error} />
      {drafts.data.length === 0 && (
        <p className="text-soft">
          No draft is open. Any edit of a policy opens one too: nothing touches live until it is
          published.
        </p>
      )}
      <ul>
        {drafts.data.map((draft) => (
          <li
            key={draft.id}
            className="flex flex-wrap items-baseline gap-x-3 border-b border-line py-2"
          >
            <Link
              className="font-semibold hover:underline"
              to={`/${at(placeOf(place, draft.id))}/changes`}
            >
              {draft.title}
            </Link>
            <span className="text-soft">
              by {draft.author}, changed {awayText(draft.changed_at)} by {draft.changed_by}
            </span>
            <span className="ml-auto">{plural(draft.changes, "change")}</span>
            <span className="w-32 text-right">
              {draft.conflicts > 0 ? (
                <span className="text-fail">✕ {plural(draft.conflicts, "conflict")}</span>
              ) : draft.all_there ? (
                <span className="text-pass">✓ already so</span>
              ) : draft.approved_by ? (
                <span className="text-pass">✓ approved by {draft.approved_by}</span>
              ) : (
                <span className="text-soft">not approved</span>
              )}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
