import { EmptyState } from "../kit/EmptyState";
import { useState } from "react";
import { Link } from "react-router";
import type { Exposure } from "../api/exposure";
import { at } from "../draft/place";
import { VirtualList } from "../kit/VirtualList";
import { PartHead } from "../kit/PartHead";
import { plural } from "../shared/span";

/** Accounts that have one password among them. */
export function SharedGroups({ domain, held }: { domain: string; held: Exposure }) {
  const [open, setOpen] = useState(0);
  const { groups, now } = held;
  return (
    <section aria-label="The same password">
      <PartHead level={2}>The same password</PartHead>
      {groups.length === 0 ? (
        <EmptyState>No two accounts have the same one.</EmptyState>
      ) : (
        <>
          <EmptyState>
            {plural(now.shared, "account")} in {plural(groups.length, "group")}: whoever knows one
            password knows all of a group.
          </EmptyState>
          <VirtualList
            label="Groups with the same password"
            items={groups}
            keyOf={(group) => group.group}
            className="max-h-56"
          >
            {(group) =>
              group.members === null ? (
                <p>{plural(group.size, "account")}</p>
              ) : (
                <>
                  <button
                    type="button"
                    className="hover:underline"
                    aria-expanded={open === group.group}
                    onClick={() => setOpen(open === group.group ? 0 : group.group)}
                  >
                    {plural(group.size, "account")}{" "}
                    <span aria-hidden className="text-soft">
                      {open === group.group ? "▾" : "▸"}
                    </span>
                  </button>
                  {open === group.group && (
                    <p className="text-xs break-words">
                      {group.members.map((name, number) => (
                        <span key={name}>
                          {number > 0 && ", "}
                          <Link
                            className="underline"
                            to={`/${at(domain)}/accounts?account=${encodeURIComponent(name)}`}
                          >
                            {name}
                          </Link>
                        </span>
                      ))}
                      {group.size > group.members.length &&
                        ` and ${(group.size - group.members.length).toLocaleString("en")} more`}
                    </p>
                  )}
                </>
              )
            }
          </VirtualList>
        </>
      )}
    </section>
  );
}
