import type { Schemas } from "../api/client";
import { Button } from "../kit/Button";

interface Props {
  groups: Schemas["ChangeGroup"][];
  busy?: boolean;
  /** Left out where the list is only to be read: then it does not say when things bite either. */
  onDrop?: ((operation: number) => void) | undefined;
  onKeep?: ((operation: number) => void) | undefined;
  /** The heading that stands above each object. */
  heading?: "h2" | "h3";
}

/** Values stand out; a whole policy in words does not. */
const face = (text: string) => (text.length < 60 ? "font-mono font-medium" : "");

/** Changes as sentences by object, each from what to what and when it bites. */
export function ChangeList({ groups, busy, onDrop, onKeep, heading: Heading = "h3" }: Props) {
  return (
    <div>
      {groups.map((group) => (
        <section key={group.subject} aria-label={group.subject} className="mb-3">
          <Heading className="border-b border-ink pb-0.5 text-sm">{group.subject}</Heading>
          <ul>
            {group.changes.map((change, number) => {
              // An operation of several sentences is taken out as a whole: one button, on its first
              // line.
              const first =
                group.changes.findIndex((c) => c.operation === change.operation) === number;
              return (
                <li
                  key={number}
                  className={`grid items-baseline gap-x-3 border-b border-line/60 py-1 ${onDrop ? "grid-cols-[minmax(0,1fr)_auto_28px] tiny:grid-cols-[minmax(0,1fr)_28px]" : ""}`}
                >
                  <span className="min-w-0">
                    {change.text}
                    {(change.before || change.after) && (
                      <span className="break-words">
                        {": "}
                        {change.before && (
                          <del className={`text-soft ${face(change.before)}`}>{change.before}</del>
                        )}
                        {change.before && change.after && " → "}
                        {change.after && (
                          <ins className={`no-underline ${face(change.after)}`}>{change.after}</ins>
                        )}
                      </span>
                    )}
                  </span>
                  {onDrop && (
                    <span className="text-xs text-soft tiny:col-span-2 tiny:row-start-2">
                      {change.bites}
                    </span>
                  )}
                  {onDrop && first && (
                    <button
                      type="button"
                      disabled={busy}
                      className="h-6 w-6 rounded text-soft hover:bg-failbg hover:text-fail disabled:opacity-40"
                      aria-label={`Take out: ${group.subject}, ${change.text}`}
                      title="Take this out of the draft"
                      onClick={() => onDrop(change.operation)}
                    >
                      ✕
                    </button>
                  )}
                  {change.conflict && first && (
                    <p className="col-span-full flex flex-wrap items-center gap-2 pt-1 text-fail">
                      {change.already ? (
                        <span className="text-soft">✓ Already so: {change.conflict}</span>
                      ) : (
                        <span>✕ Does not fit live any more: {change.conflict}</span>
                      )}
                      {change.can_keep && onKeep && (
                        <Button
                          size="small"
                          disabled={busy}
                          onClick={() => onKeep(change.operation)}
                        >
                          Keep mine
                        </Button>
                      )}
                    </p>
                  )}
                </li>
              );
            })}
          </ul>
        </section>
      ))}
    </div>
  );
}
