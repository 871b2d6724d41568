import { useQueryClient } from "@tanstack/react-query";
import { useMe } from "../api/people";
import { giveUp, resume } from "../api/session";
import { AskedOver } from "./AskedOver";
import { ProviderButton } from "./ProviderButton";
import { SignInForm } from "./SignInForm";

/** Signing in again over the screen one was at. */
export function SessionOver({ name }: { name: string }) {
  const client = useQueryClient();
  const elsewhere = useMe().data?.elsewhere ?? false;
  return (
    <AskedOver
      title="Your session is over"
      words="Sign in again: everything you typed is still here."
    >
      {elsewhere ? (
        <ProviderButton beside="first" />
      ) : (
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
      )}
    </AskedOver>
  );
}
