import { Dialog } from "radix-ui";
import { Button, Kbd } from "../kit/Button";
import { setSingleKeys, useSingleKeys } from "../shared/shortcuts";

const KEYS: [string[], string][] = [
  [["/"], "Find an account, group or policy"],
  [["B"], "Go to the bench and type a candidate"],
  [["D"], "Switch every screen between live and the draft"],
  [["Ctrl S"], "Save what is edited to the draft"],
  [["Ctrl Z", "Ctrl Y"], "In a draft: take the last change back, bring it again"],
  [["N"], "In the strata: a new policy"],
  [["?"], "Show these keys"],
  [["↑", "↓", "←", "→"], "Move through the strata or the table of accounts"],
  [["Shift ↑", "Shift ↓"], "On a layer: weigh a new place for it, Enter to take it"],
  [["↑", "↓", "←", "→"], "On an event of the drill: go to the next, move it; Delete takes it out"],
  [["←", "→", "↑", "↓"], "On a policy of the forecast: move it, Enter to save it"],
  [["Enter"], "Open the layer, the population or the account"],
  [["Esc"], "Close the panel, or give up what was begun"],
];

const SINGLE = "/ B D N ?";

export function Keys({
  open,
  onOpenChange,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
}) {
  const on = useSingleKeys();
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 max-h-full w-[460px] max-w-full overflow-y-auto -translate-x-1/2 -translate-y-1/2 rounded-lg border border-line bg-sheet p-5"
        >
          <Dialog.Title className="mb-3 text-base">Keys</Dialog.Title>
          <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
            {KEYS.map(([keys, what]) => (
              <div key={what} className="contents">
                <dt className="flex gap-1">
                  {keys.map((k) => (
                    <Kbd key={k}>{k}</Kbd>
                  ))}
                </dt>
                <dd>{what}</dd>
              </div>
            ))}
          </dl>
          <label className="mt-4 flex items-center gap-2">
            <input
              type="checkbox"
              checked={on}
              onChange={(event) => setSingleKeys(event.target.checked)}
            />
            Single keys act ({SINGLE})
          </label>
          <Dialog.Close asChild>
            <Button className="mt-4">Close</Button>
          </Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
