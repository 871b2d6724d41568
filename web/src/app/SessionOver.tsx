import { useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { giveUp, resume, whereOneWas } from "../api/session";
import { SignInForm } from "./SignInForm";

/** Signing in again over the screen one was at. */
export function SessionOver({ name }: { name: string }) {
  const client = useQueryClient();
  return (
    <Dialog.Root open>
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
          onEscapeKeyDown={(event) => event.preventDefault()}
          onPointerDownOutside={(event) => event.preventDefault()}
        >
          <Dialog.Title className="font-head text-lg leading-6 font-semibold">
            Your session is over
          </Dialog.Title>
          <Dialog.Description className="mb-4 text-soft">
            Sign in again: everything you typed is still here.
          </Dialog.Description>
          <SignInForm
            known={name}
            onSignedIn={(signedIn) => {
              if (signedIn === name) {
                resume();
                void client.invalidateQueries();
              } else {
                // Somebody else: nothing of the one before goes on under their name.
                giveUp();
                window.location.assign("/");
              }
            }}
          />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
