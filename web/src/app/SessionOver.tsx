import { useQueryClient } from "@tanstack/react-query";
import { giveUp, resume } from "../api/session";
import { AskedOver } from "./AskedOver";
import { SignInForm } from "./SignInForm";

/** Signing in again over the screen one was at. */
export function SessionOver({ name }: { name: string }) {
  const client = useQueryClient();
  return (
    <AskedOver
      title="Your session is over"
      words="Sign in again: everything you typed is still here."
    >
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
    </AskedOver>
  );
}
