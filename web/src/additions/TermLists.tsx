import { EmptyState } from "../kit/EmptyState";
import { useTermLists } from "../api/additions";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { May } from "../shared/May";
import { PartHead } from "../kit/PartHead";
import { plural } from "../shared/span";
import { useUrlState } from "../shared/useUrlState";
import { TermsForm } from "./TermsForm";

const NEW = " ";

/** The lists of blocked terms of a domain, and one of them being looked at or changed. */
export function TermLists({ domain, policy }: { domain: string; policy: string }) {
  const lists = useTermLists(domain);
  const [shown, show] = useUrlState("list");
  // Another one may have been opened while this one was saved.
  const close = (name: string) => show((now) => (now === name ? "" : now));
  return (
    <section aria-label="Lists of blocked terms">
      <PartHead
        beside={
          <May right="draft" at={domain}>
            <Button
              id="new-list"
              size="small"
              aria-expanded={shown === NEW}
              onClick={() => show(shown === NEW ? "" : NEW)}
            >
              + List
            </Button>
          </May>
        }
      >
        Lists of blocked terms
      </PartHead>
      {lists.isPending ? (
        <Loading what="the lists" />
      ) : lists.error ? (
        <Failure error={lists.error} retry={() => void lists.refetch()} />
      ) : (
        <>
          {lists.data.lists.length === 0 && shown !== NEW && (
            <EmptyState>None yet. A rule “Blocked terms” needs one.</EmptyState>
          )}
          <ul>
            {lists.data.lists.map((list) => (
              <li key={list.name} className="border-b border-line/60 py-0.5">
                <div className="flex items-center gap-2">
                  <button
                    type="button"
                    className="min-w-0 truncate rounded text-left underline"
                    title={list.name}
                    aria-expanded={shown === list.name}
                    onClick={() => show(shown === list.name ? "" : list.name)}
                  >
                    {list.name}
                  </button>
                  <span className="ml-auto shrink-0 text-xs text-soft">
                    {plural(list.count, "term")} ·{" "}
                    {list.used_by.length === 0
                      ? "used by nobody"
                      : list.used_by.length === 1
                        ? `used by ${list.used_by[0]}`
                        : `used by ${list.used_by.length}`}
                  </span>
                </div>
                {shown === list.name && (
                  <TermsForm
                    key={list.name}
                    domain={domain}
                    policy={policy}
                    name={list.name}
                    house={lists.data.house}
                    onDone={() => close(list.name)}
                  />
                )}
              </li>
            ))}
          </ul>
          {shown === NEW && (
            <TermsForm
              domain={domain}
              policy={policy}
              name=""
              house={lists.data.house}
              onDone={() => close(NEW)}
            />
          )}
        </>
      )}
    </section>
  );
}
