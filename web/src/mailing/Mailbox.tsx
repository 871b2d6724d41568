import { EmptyState } from "../kit/EmptyState";
import { useState } from "react";
import { useMailbox } from "../api/mailing";
import { Failure, Loading } from "../kit/Loading";
import { VirtualList } from "../kit/VirtualList";
import { momentText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";
import { LetterText } from "./LetterText";

/** What the stand-in for a mail server has kept. */
export function Mailbox({ domain }: { domain: string }) {
  const mailbox = useMailbox(domain);
  const [open, setOpen] = useState("");
  const letter = mailbox.data?.find((one) => one.name === open);
  return (
    <section aria-label="Mailbox">
      <PartHead>Mailbox of the stand-in</PartHead>
      {mailbox.isPending ? (
        <Loading what="the mailbox" />
      ) : mailbox.error ? (
        <Failure error={mailbox.error} retry={() => void mailbox.refetch()} />
      ) : mailbox.data.length === 0 ? (
        <EmptyState>Nothing has come yet.</EmptyState>
      ) : (
        <VirtualList
          label="Kept letters"
          items={mailbox.data}
          keyOf={(one) => one.name}
          className="mt-1 max-h-60"
        >
          {(one) => (
            <button
              type="button"
              aria-expanded={one.name === open}
              className="block w-full text-left hover:bg-hover"
              onClick={() => setOpen(one.name === open ? "" : one.name)}
            >
              <span className="block break-words">{one.subject}</span>
              <span className="block text-xs break-words text-soft">
                {momentText(one.at)} · {one.to}
              </span>
            </button>
          )}
        </VirtualList>
      )}
      {letter && (
        <div className="mt-2">
          <LetterText {...letter} />
        </div>
      )}
    </section>
  );
}
