import { EmptyState } from "../kit/EmptyState";
import { useGateAnswers, type GateAnswer } from "../api/gate";
import { Failure, Loading } from "../kit/Loading";
import { TextInput } from "../kit/inputs";
import { VirtualList } from "../kit/VirtualList";
import { momentText } from "../shared/moments";
import { PartHead } from "../kit/PartHead";
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
        <Failure error={answers.error} retry={() => void answers.refetch()} />
      ) : answers.data.length === 0 ? (
        <EmptyState>
          {account ? "Nobody asked about this account in half a year." : "Nobody has asked yet."}
        </EmptyState>
      ) : (
        <VirtualList
          label="Answers"
          items={answers.data}
          keyOf={(one) => one.id}
          className="mt-1 max-h-80"
        >
          {(one) => <Line answer={one} />}
        </VirtualList>
      )}
    </section>
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
