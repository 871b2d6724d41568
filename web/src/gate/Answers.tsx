import { useRef } from "react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useGateAnswers, type GateAnswer } from "../api/gate";
import { Failed, Loading } from "../shared/controls";
import { TextInput } from "../shared/fields";
import { momentText } from "../shared/moments";
import { PartHead } from "../shared/PartHead";
import { ruleWords } from "./kinds";
import { useAddress, useUrlState } from "../shared/useUrlState";

const SAID: Record<GateAnswer["outcome"], { mark: string; words: string; tone: string }> = {
  accepted: { mark: "✓", words: "accepted", tone: "text-pass" },
  refused: { mark: "✕", words: "refused", tone: "text-fail" },
  "let through": { mark: "△", words: "taken without an answer", tone: "text-warn" },
  "turned away": { mark: "△", words: "refused without an answer", tone: "text-warn" },
};

/** What came of the latest questions; never what the password was. */
export function Answers({ domain }: { domain: string }) {
  const [account] = useUrlState("asked");
  const [, change] = useAddress();
  const answers = useGateAnswers(domain, account);
  return (
    <section aria-label="What came of it">
      <PartHead>What came of it</PartHead>
      <TextInput
        type="search"
        aria-label="Answers about this account"
        placeholder="All accounts, or the name of one"
        className="mt-1 w-full"
        value={account}
        onChange={(event) => change({ asked: event.target.value }, true)}
      />
      {answers.isPending ? (
        <Loading what="the record" />
      ) : answers.error ? (
        <Failed error={answers.error} retry={() => void answers.refetch()} />
      ) : answers.data.length === 0 ? (
        <p className="py-1 text-soft">
          {account ? "Nobody asked about this account in half a year." : "Nobody has asked yet."}
        </p>
      ) : (
        <Lines answers={answers.data} />
      )}
    </section>
  );
}

function Lines({ answers }: { answers: GateAnswer[] }) {
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer keeps its own state on purpose
  const rows = useVirtualizer({
    count: answers.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 42,
    overscan: 8,
    getItemKey: (index) => answers[index]?.id ?? index,
  });
  return (
    <div
      ref={scroller}
      tabIndex={0}
      role="group"
      aria-label="Answers"
      className="mt-1 max-h-80 overflow-y-auto"
    >
      <ol className="relative" style={{ height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map((row) => {
          const one = answers[row.index];
          return (
            one && (
              <li
                key={row.key}
                ref={rows.measureElement}
                data-index={row.index}
                className="absolute inset-x-0 border-b border-line/60 py-1"
                style={{ transform: `translateY(${row.start}px)` }}
              >
                <Line answer={one} />
              </li>
            )
          );
        })}
      </ol>
    </div>
  );
}

function Line({ answer }: { answer: GateAnswer }) {
  const { mark, words, tone } = SAID[answer.outcome];
  return (
    <>
      <p className="break-words">
        <b className="font-medium">{answer.account || "no name"}</b>{" "}
        <span className={tone}>
          {mark} {words}
        </span>
        {answer.rules.length > 0 && `: ${answer.rules.map(ruleWords).join(", ")}`}
      </p>
      <p className="text-xs text-soft">
        {momentText(answer.at)} · {answer.caller}
        {answer.operation !== "unknown" && ` · ${answer.operation}`}
        {" · "}
        {answer.policy || "the domain policy"}
      </p>
    </>
  );
}
