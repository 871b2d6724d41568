import { DropdownMenu } from "radix-ui";
import { useNavigate } from "react-router";
import { useActs, useMe, useSignOut } from "../api/people";
import { at } from "../draft/place";
import { Button } from "../kit/Button";
import { ITEM, MENU } from "./menu";

/** Whoever is signed in: their way in and out, and where people and the trail are. */
export function OwnMenu({ domain, me }: { domain: string; me: string }) {
  const rights = useMe().data?.rights ?? [];
  // What somebody else has asked for and one may confirm.
  const waiting = useActs().data?.filter((act) => !act.mine).length ?? 0;
  const navigate = useNavigate();
  const signOut = useSignOut();
  const go = (screen: string) => () => void navigate(`/${at(domain)}/${screen}`);
  const people = rights.includes("people") || waiting > 0;
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger asChild>
        <Button tone="quiet">
          <span className="sr-only">Signed in as </span>
          <span className="max-w-40 truncate" title={me}>
            {me}
          </span>
          {waiting > 0 && (
            <span className="ml-1 rounded-full bg-warn px-1.5 text-xs font-semibold text-white">
              {waiting}
              <span className="sr-only"> waiting for you</span>
            </span>
          )}{" "}
          <span className="text-soft">▾</span>
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Content align="end" collisionPadding={4} sideOffset={6} className={MENU}>
        <DropdownMenu.Item className={ITEM} onSelect={go("own")}>
          Your sign-in
        </DropdownMenu.Item>
        {people && (
          <DropdownMenu.Item className={ITEM} onSelect={go("people")}>
            People
            {waiting > 0 && <span className="ml-6 text-xs text-soft">{waiting} waiting</span>}
          </DropdownMenu.Item>
        )}
        {rights.includes("trail") && (
          <DropdownMenu.Item className={ITEM} onSelect={go("trail")}>
            Trail
          </DropdownMenu.Item>
        )}
        <DropdownMenu.Separator className="my-1 h-px bg-line" />
        <DropdownMenu.Item
          className={ITEM}
          onSelect={() => signOut.mutate(undefined, { onSuccess: () => void navigate("/") })}
        >
          Sign out
        </DropdownMenu.Item>
      </DropdownMenu.Content>
    </DropdownMenu.Root>
  );
}
