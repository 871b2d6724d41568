import { useOwnSuggestions } from "../api/you";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";

/** Passwords that would do, drawn at random on the server and kept nowhere. */
export function Suggestions({ onTake }: { onTake: (text: string) => void }) {
  const drawn = useOwnSuggestions();
  const nothing =
    drawn.data?.length === 0 ? "Nothing can be drawn by these rules. Choose one yourself." : null;
  return (
    <div className="space-y-2">
      <Button aria-busy={drawn.isPending} onClick={() => drawn.mutate()}>
        {drawn.data ? "Draw others" : "Suggest some"}
      </Button>
      <Refusal error={drawn.error ?? nothing} />
      {drawn.data && drawn.data.length > 0 && (
        <ul aria-label="These would do" className="space-y-1.5">
          {drawn.data.map(({ text }) => (
            <li key={text} className="flex items-center gap-1.5">
              <output className="min-w-0 flex-1 rounded-[5px] border border-line bg-sheet px-2 py-1 font-mono text-sm break-all">
                {text}
              </output>
              <Button aria-label={`Take it: ${text}`} onClick={() => onTake(text)}>
                Take it
              </Button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
