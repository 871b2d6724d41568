import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { whereOneWas } from "../api/session";

interface Props {
  title: string;
  words: string;
  children: ReactNode;
  /** Left out where there is no way on without an answer. */
  onGiveUp?: () => void;
}

/** A question over the screen one was at, which is there again when it is answered. */
export function AskedOver({ title, words, children, onGiveUp }: Props) {
  const stay = (event: Event) => {
    if (!onGiveUp) event.preventDefault();
  };
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onGiveUp?.()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-[90] bg-ink/40" />
        <Dialog.Content
          className="fixed top-1/2 left-1/2 z-[91] max-h-full w-80 max-w-full -translate-x-1/2 -translate-y-1/2 overflow-y-auto rounded-lg border border-line bg-sheet p-6"
          // The form has its password field focused already.
          onOpenAutoFocus={(event) => event.preventDefault()}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            whereOneWas()?.focus();
          }}
          onEscapeKeyDown={stay}
          onPointerDownOutside={(event) => event.preventDefault()}
        >
          <Dialog.Title className="font-head text-lg leading-6 font-semibold">{title}</Dialog.Title>
          <Dialog.Description className="mb-4 text-soft">{words}</Dialog.Description>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
