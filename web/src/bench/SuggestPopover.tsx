import { Popover } from "radix-ui";
import { useSuggestions } from "../api/bench";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Drop } from "../kit/Drop";
import { useBench } from "./BenchProvider";

const KINDS = { phrase: "Words", blocks: "Letters and digits" } as const;

/**
 * Passwords that the first on the bench may take, drawn at random on the server and kept nowhere.
 */
export function SuggestPopover({ place }: { place: string }) {
  const { accounts, policies, circumstances, setCandidate } = useBench();
  const suggestions = useSuggestions(place);
  const made = suggestions.data ?? [];
  const account = accounts[0];
  const policy = policies[0];
  const draw = () => {
    const previous = circumstances.earlier.filter((e) => e.text !== "").map((e) => e.text);
    suggestions.mutate({
      ...(account ? { account } : { policy: policy?.guid ?? "domain" }),
      previous,
    });
  };
  const nothing =
    suggestions.data?.length === 0
      ? "Nothing can be drawn: the names of this account leave nothing, or the policy asks for more than any password has."
      : null;
  return (
    <Drop
      side="top"
      label="Suggested passwords"
      className="w-[460px] space-y-2.5"
      onOpenChange={(open) => (open ? draw() : suggestions.reset())}
      trigger={<Button>Suggest …</Button>}
    >
      <h3 className="text-sm">
        Accepted for {account ?? `anybody under ${policy?.name ?? "the domain policy"}`}
      </h3>
      <Refusal error={suggestions.error ?? nothing} />
      <ul className="min-h-[108px] space-y-2">
        {made.map((one) => (
          <li key={one.kind}>
            <p className="text-xs text-soft">
              {KINDS[one.kind]} · {one.bits} bits: one of 2<sup>{one.bits}</sup> that could have
              come out
            </p>
            <div className="flex items-center gap-1.5">
              <output className="min-w-0 flex-1 rounded-[5px] border border-line bg-white px-2 py-1 font-mono break-all">
                {one.text}
              </output>
              <Popover.Close asChild>
                <Button onClick={() => setCandidate(one.text)}>Try it</Button>
              </Popover.Close>
            </div>
          </li>
        ))}
      </ul>
      <div className="flex items-center justify-between">
        <Button onClick={draw}>Draw others</Button>
        <span className="text-xs text-soft">Drawn at random, kept nowhere.</span>
      </div>
    </Drop>
  );
}
