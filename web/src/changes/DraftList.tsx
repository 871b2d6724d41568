import { Link } from "react-router";
import { useDrafts, useOpenDraft } from "../api/drafts";
import { at, domainOf, placeOf } from "../draft/place";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { Form } from "../kit/form/Form";
import { useForm } from "../kit/form/useForm";
import { awayText, plural } from "../shared/span";
import { TextInput } from "../kit/inputs";
import { May } from "../shared/May";

/** All open drafts of the domain, everybody's, and a way to begin another. */
export function DraftList({ place }: { place: string }) {
  const drafts = useDrafts(place);
  if (drafts.isPending) return <Loading what="the drafts" />;
  if (drafts.error) return <Failure error={drafts.error} retry={() => void drafts.refetch()} />;
  return (
    <div className="h-full max-w-[820px] overflow-y-auto px-4 pb-4 small:px-2">
      <May right="draft" at={place}>
        <NewDraft place={place} />
      </May>
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

function NewDraft({ place }: { place: string }) {
  const domain = domainOf(place);
  const open = useOpenDraft(place);
  const form = useForm({
    work: {
      place: domain,
      about: "new draft",
      label: "A draft not opened yet",
      to: `/${at(domain)}/changes?view=drafts`,
    },
    start: "",
    writes: [open],
  });
  return (
    <Form
      of={form}
      className="mb-3 flex flex-wrap items-center gap-2"
      onSubmit={() =>
        form.send(
          () => open.mutateAsync(form.value.trim()),
          (_, sent) => form.saved(sent),
        )
      }
    >
      <label htmlFor="new-draft">New draft</label>
      <TextInput
        id="new-draft"
        value={form.value}
        maxLength={100}
        placeholder="What it is about"
        className="w-72"
        onChange={(event) => form.set(event.target.value)}
      />
      <Button type="submit" tone="main" disabled={form.busy}>
        Open
      </Button>
      <Refusal error={open.error} />
    </Form>
  );
}
