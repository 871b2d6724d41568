import { EmptyState } from "../kit/EmptyState";
import { useState } from "react";
import { useLetterAgain, useLetters, type LetterInfo } from "../api/mailing";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Failure, Loading } from "../kit/Loading";
import { TextInput } from "../kit/inputs";
import { VirtualList } from "../kit/VirtualList";
import { momentText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";
import { KINDS, STATES } from "./words";

/** The latest letters, and what became of each. */
export function Letters({ domain }: { domain: string }) {
  const [account, setAccount] = useState("");
  const letters = useLetters(domain, account.trim());
  const again = useLetterAgain(domain);
  return (
    <section aria-label="Letters">
      <PartHead>Letters</PartHead>
      <TextInput
        type="search"
        aria-label="Letters to this account"
        placeholder="To everybody, or the name of an account"
        className="mt-1 w-full"
        value={account}
        onChange={(event) => setAccount(event.target.value)}
      />
      <Refusal error={again.error} />
      {letters.isPending ? (
        <Loading what="the letters" />
      ) : letters.error ? (
        <Failure error={letters.error} retry={() => void letters.refetch()} />
      ) : letters.data.length === 0 ? (
        <EmptyState>
          {account ? "This account was not written to." : "No letter was written yet."}
        </EmptyState>
      ) : (
        <VirtualList
          label="Letters by time"
          items={letters.data}
          keyOf={(one) => one.id}
          className="mt-1 max-h-72"
        >
          {(one) => (
            <Line letter={one} onAgain={() => again.mutate(one.id)} busy={again.isPending} />
          )}
        </VirtualList>
      )}
    </section>
  );
}

function Line({
  letter,
  onAgain,
  busy,
}: {
  letter: LetterInfo;
  onAgain: () => void;
  busy: boolean;
}) {
  const { mark, words, tone } = STATES[letter.state];
  return (
    <div className="flex items-start gap-2">
      <div className="min-w-0 flex-1">
        <p className="break-words">
          <b className="font-medium">{letter.account}</b>{" "}
          <span className={tone}>
            {mark} {words}
          </span>
        </p>
        <p className="text-xs break-words text-soft">
          {momentText(letter.changed_at)} · {letter.address} ·{" "}
          {letter.about.map((kind) => KINDS[kind].label.toLowerCase()).join(", ")}
          {letter.told && <span className="block">{letter.told}</span>}
        </p>
      </div>
      {(letter.state === "refused" || letter.state === "uncertain") && (
        <Button
          size="small"
          aria-label={`Send it again: ${letter.account}`}
          onClick={() => {
            if (!busy) onAgain();
          }}
        >
          Send it again
        </Button>
      )}
    </div>
  );
}
