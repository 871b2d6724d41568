import { Tooltip } from "radix-ui";
import { useState, type ReactNode } from "react";

/** The words that are ours, each in one line. */
const WORDS = {
  strata:
    "The policies as layers, in the order in which they are asked: the first one that reaches an account holds.",
  bedrock: "The domain policy below all layers: it holds for everybody whom no layer reaches.",
  population:
    "All accounts that the same policies reach in the same way, so that all of them get the same one.",
  exempt:
    "Trust and computer accounts, and the Kerberos service account: fine-grained policies never reach them.",
  bench: "Where invented passwords are tried on accounts, before anybody has to use one.",
  boundaries: "Invented passwords that lie just inside and just outside of each rule.",
  rehearsal:
    "A policy tried in the directory itself, on an account that is made for it and deleted again.",
  trial:
    "An invented password or a story, kept with what must come of it, and tried again on every draft.",
  story:
    "What happens at an account in the course of time: bad and good tries, retries of an older password, an operator who unlocks.",
  besides:
    "Rules that Hornfels judges by, on top of what the directory itself checks: the policy’s addition.",
  grave: "It opens a way in, or takes protection from those who have most rights.",
  audit: "Shorter passwords are still accepted, but each one is written to the server’s log.",
} as const;

/**
 * A word that is ours, explained where it first stands: by pointing at it, by the keyboard, or by a
 * tap.
 */
export function Word({ of, children }: { of: keyof typeof WORDS; children: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <Explained open={open} onOpenChange={setOpen} text={WORDS[of]} side="top">
      <button
        type="button"
        className="printed min-h-6 min-w-6 cursor-help underline decoration-edge decoration-dotted underline-offset-[3px]"
        onFocus={() => setOpen(true)}
        onBlur={() => setOpen(false)}
        // A press would close it again.
        onPointerDown={(event) => event.preventDefault()}
        onClick={(event) => {
          event.preventDefault();
          setOpen(true);
        }}
      >
        {children}
      </button>
    </Explained>
  );
}

interface ExplainedProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  text: string;
  side: "top" | "left";
  align?: "start" | "center";
  children: ReactNode;
}

/** Lays a short explanation beside what it is about. Escape closes it. */
export function Explained({ open, onOpenChange, text, side, align, children }: ExplainedProps) {
  return (
    <Tooltip.Provider delayDuration={300}>
      <Tooltip.Root open={open} onOpenChange={onOpenChange}>
        <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
        {/* Beside what it explains in the page too, so that it lies in the same landmark. */}
        <Tooltip.Content
          side={side}
          align={align}
          sideOffset={8}
          collisionPadding={4}
          hideWhenDetached
          className="z-50 max-w-72 rounded-md bg-ink px-3 py-2 text-xs font-normal text-white shadow-lg"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}
