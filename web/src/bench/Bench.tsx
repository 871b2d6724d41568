import { useState, type RefObject } from "react";
import { useStrata } from "../api/queries";
import { Button, Choices, Kbd, Notice } from "../shared/controls";
import { Finder } from "../shared/Finder";
import { useBench } from "./BenchProvider";
import { RuleMatrix } from "./RuleMatrix";
import { useTrial } from "./useTrial";

interface Props {
  domain: string;
  open: boolean;
  setOpen: (open: boolean) => void;
  candidateRef: RefObject<HTMLInputElement | null>;
}

/** The bench, always at hand below the screen: a candidate against several accounts at once, as it is typed. */
export function Bench({ domain, open, setOpen, candidateRef }: Props) {
  const { accounts, add, remove, candidate, setCandidate } = useBench();
  const [operation, setOperation] = useState<"change" | "reset">("change");
  const [shown, setShown] = useState(true);
  const strata = useStrata(domain);
  const { answer, error } = useTrial(domain, candidate, operation, accounts, null, strata.data?.domain.version);

  const onePerLayer = () => {
    const populations = strata.data?.populations ?? [];
    const bySize = [...populations].filter((p) => p.source !== "exempt").sort((a, b) => b.count - a.count);
    const seen = new Set<string | null>();
    const picked = bySize.filter((p) => !seen.has(p.winner) && seen.add(p.winner));
    add(picked.slice(0, 3).map((p) => p.sample));
  };

  return (
    <section aria-label="Bench" className="shrink-0 border-t border-line bg-white">
      {open ? (
        <div className="grid h-[226px] grid-cols-[268px_minmax(0,1fr)]">
          <div className="flex flex-col gap-1.5 overflow-y-auto border-r border-line px-4 pt-2 pb-2">
            <div className="flex items-center justify-between">
              <h2 className="text-[15px]">Bench</h2>
              <span className="flex items-center gap-1">
                <Kbd>B</Kbd>
                <Button tone="quiet" className="h-6 px-1.5" aria-label="Fold the bench away" onClick={() => setOpen(false)}>
                  ▾
                </Button>
              </span>
            </div>
            <div>
              <label htmlFor="candidate" className="text-xs text-soft">
                Candidate password
              </label>
              <div className="relative">
                <input
                  id="candidate"
                  ref={candidateRef}
                  type={shown ? "text" : "password"}
                  value={candidate}
                  autoComplete="off"
                  autoCorrect="off"
                  autoCapitalize="off"
                  spellCheck={false}
                  maxLength={4000}
                  placeholder="Type to try it"
                  className="mt-0.5 h-8 w-full rounded-[5px] border border-ink px-2.5 pr-20 font-mono text-sm"
                  onChange={(event) => setCandidate(event.target.value)}
                  onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
                />
                <span className="absolute top-1 right-2 flex items-center gap-1.5 text-xs text-soft">
                  <span className="font-mono" title="Characters as the directory counts them">
                    {answer && candidate ? answer.length : ""}
                  </span>
                  <button type="button" className="h-6 rounded px-1 underline" aria-pressed={!shown} onClick={() => setShown(!shown)}>
                    {shown ? "hide" : "show"}
                  </button>
                </span>
              </div>
            </div>
            <Choices
              label="Who sets it"
              value={operation}
              onChange={setOperation}
              choices={[
                { value: "change", label: "Own change" },
                { value: "reset", label: "Operator reset" },
              ]}
            />
            <div className="flex flex-wrap gap-1">
              {accounts.map((name) => (
                <span key={name} className="flex items-center rounded-full border border-edge bg-paper pl-2 text-xs">
                  {name}
                  <button type="button" aria-label={`Take ${name} off the bench`} className="px-1.5 py-0.5" onClick={() => remove(name)}>
                    ✕
                  </button>
                </span>
              ))}
            </div>
            <Finder domain={domain} kinds={["account"]} label="Account to try it on" placeholder="+ account" upwards onPick={(hit) => add([hit.name])} />
          </div>
          <div className="overflow-auto px-4 pt-2.5">
            {error ? (
              <Notice tone="fail" role="alert">
                {error.message}
              </Notice>
            ) : accounts.length === 0 ? (
              <div className="grid h-full place-content-center justify-items-center gap-2 text-center text-soft">
                <p>Add accounts on the left, and see each rule’s answer for them side by side.</p>
                <Button onClick={onePerLayer} disabled={!strata.data}>
                  Take one account from each of the largest populations
                </Button>
              </div>
            ) : candidate === "" ? (
              <p className="grid h-full place-content-center text-center text-soft">
                Type a candidate: what each rule says for {accounts.length === 1 ? accounts[0] : "these accounts"} stands here as you type.
              </p>
            ) : (
              <RuleMatrix domain={domain} answer={answer} />
            )}
          </div>
        </div>
      ) : (
        <button type="button" className="flex h-8 w-full items-center gap-2 px-4 text-left" onClick={() => setOpen(true)}>
          <span className="font-head font-semibold">Bench</span> <Kbd>B</Kbd>
          <span className="text-soft">Try a candidate password</span>
        </button>
      )}
    </section>
  );
}
