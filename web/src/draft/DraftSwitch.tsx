import { Link } from "react-router";
import { useDrafts } from "../api/drafts";
import { Choices } from "../kit/Choices";
import { plural } from "../shared/span";
import { useToggleDraft } from "./useToggleDraft";
import { at, draftOf } from "./place";

/** Live or draft: which of them every screen shows. */
export function DraftSwitch({ domain }: { domain: string }) {
  const drafts = useDrafts(domain);
  const shown = draftOf(domain);
  const toggle = useToggleDraft(domain);
  const draft = drafts.data?.find((d) => d.id === shown);
  return (
    <div className="flex max-w-full min-w-0 items-center gap-2">
      <Choices
        label="Which estate the screens show"
        value={shown === null ? "live" : "draft"}
        onChange={toggle}
        choices={[
          { value: "live", label: "Live" },
          { value: "draft", label: "Draft" },
        ]}
      />
      {draft ? (
        <Link to={`/${at(domain)}/changes`} className="truncate underline" title={draft.title}>
          {draft.title}: {plural(draft.changes, "change")}
          {draft.conflicts > 0 && (
            <span className="text-fail"> · ✕ {plural(draft.conflicts, "conflict")}</span>
          )}
        </Link>
      ) : (
        shown === null &&
        (drafts.data?.length ?? 0) > 0 && (
          <span className="truncate text-soft small:hidden">
            {plural(drafts.data?.length ?? 0, "open draft")}
          </span>
        )
      )}
    </div>
  );
}
