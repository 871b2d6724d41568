import { useParams } from "react-router";
import { useDrafts } from "../api/drafts";
import { domainOf, draftOf } from "../draft/place";
import { Choices } from "../kit/Choices";
import { useTitle } from "../shared/useTitle";
import { useUrlState } from "../shared/useUrlState";
import { DraftList } from "./DraftList";
import { DraftSheet } from "./DraftSheet";
import { HistoryList } from "./HistoryList";
import { PublicationPart } from "./PublicationPart";

type View = "draft" | "drafts" | "history";

const TITLES: Record<View, string> = {
  draft: "This draft",
  drafts: "Open drafts",
  history: "History",
};

/** What is about to change, who looks at it, and what changed before. */
export function ChangesScreen() {
  const { domain = "" } = useParams();
  const [chosen, choose] = useUrlState("view");
  const drafts = useDrafts(domain);
  const drafting = draftOf(domain) !== null;
  const view: View =
    chosen === "history" ? "history" : drafting && chosen !== "drafts" ? "draft" : "drafts";
  useTitle(TITLES[view], "Changes", domainOf(domain));
  const count = drafts.data?.length;
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 pt-2.5 pb-2 small:px-2 small:pt-1">
        <h1 className="text-base">Changes</h1>
        <Choices
          label="What to look at"
          value={view}
          onChange={(next: View) => choose(next === "draft" ? "" : next)}
          choices={[
            ...(drafting ? [{ value: "draft" as const, label: "This draft" }] : []),
            {
              value: "drafts" as const,
              label: count === undefined ? "Open drafts" : `Open drafts ${count}`,
            },
            { value: "history" as const, label: "History" },
          ]}
        />
      </div>
      <PublicationPart place={domain} />
      <div className="min-h-0 flex-1">
        {view === "draft" ? (
          <DraftSheet key={domain} place={domain} />
        ) : view === "drafts" ? (
          <DraftList place={domain} />
        ) : (
          <HistoryList place={domain} />
        )}
      </div>
    </div>
  );
}
