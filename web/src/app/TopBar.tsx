import { DropdownMenu } from "radix-ui";
import type { RefObject } from "react";
import { useNavigate } from "react-router";
import { useDomains } from "../api/domains";
import { useMe } from "../api/people";
import { DraftSwitch } from "../draft/DraftSwitch";
import { at, domainOf, draftOf } from "../draft/place";
import { Button } from "../kit/Button";
import { Finder } from "../shared/Finder";
import { awayText, plural } from "../shared/span";
import { LockedLine } from "./LockedLine";
import { ITEM, MENU } from "./menu";
import { OwnMenu } from "./OwnMenu";
import { Trouble } from "./Trouble";
import { Unsaved } from "./Unsaved";

interface Props {
  domain: string;
  me: string;
  finder: RefObject<HTMLInputElement | null>;
  onKeys: () => void;
}

export function TopBar({ domain, me, finder, onKeys }: Props) {
  const name = domainOf(domain);
  const drafting = draftOf(domain) !== null;
  const domains = useDomains();
  const navigate = useNavigate();
  const mayLoad = useMe().data?.rights.includes("load") ?? false;
  const here = domains.data?.find((d) => d.dns_name === name);
  return (
    <header
      className={`col-span-full flex min-h-[46px] min-w-0 flex-wrap items-center gap-x-3 gap-y-1 border-b px-4 py-1 small:px-2 ${drafting ? "border-warn bg-warnbg" : "border-line bg-sheet"}`}
    >
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger asChild>
          <button
            className="max-w-full truncate font-head text-[15px] font-semibold"
            title={name}
            aria-label={`${domain === "-" ? "No domain yet" : `Domain ${name}`}; choose another`}
          >
            {domain === "-" ? "No domain yet" : name} <span className="text-soft">▾</span>
          </button>
        </DropdownMenu.Trigger>
        <DropdownMenu.Content align="start" sideOffset={6} className={MENU}>
          {domains.data?.map((d) => (
            <DropdownMenu.Item
              key={d.dns_name}
              className={ITEM}
              onSelect={() => void navigate(`/${at(d.dns_name)}/strata`)}
            >
              {d.dns_name}
              <span className="ml-6 text-xs text-soft">{plural(d.accounts, "account")}</span>
            </DropdownMenu.Item>
          ))}
          {mayLoad && (
            <DropdownMenu.Item
              className={ITEM}
              onSelect={() => void navigate(`/${at(domain)}/sources`)}
            >
              Load another domain …
            </DropdownMenu.Item>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Root>
      {domain !== "-" && <DraftSwitch domain={domain} />}
      {!drafting && here && (
        <p className="min-w-0 truncate text-soft small:hidden" title={`read from ${here.source}`}>
          read {awayText(here.loaded_at)} · {plural(here.accounts, "account")}
        </p>
      )}
      <LockedLine domain={domain} />
      <Trouble />
      <div className="ml-auto shrink-0 empty:hidden">
        <Unsaved domain={domain} />
      </div>
      <div className="w-72 min-w-0 shrink-0 small:w-auto small:min-w-40 small:flex-1">
        {domain !== "-" && (
          <Finder
            domain={domain}
            label="Find account, group or policy"
            placeholder="Find account, group or policy"
            hint="/"
            inputRef={finder}
            onEscape={() => finder.current?.blur()}
            onPick={(hit) => {
              if (hit.kind === "policy") void navigate(`/${at(domain)}/strata?policy=${hit.guid}`);
              else if (hit.kind === "account")
                void navigate(`/${at(domain)}/accounts?account=${encodeURIComponent(hit.name)}`);
              else void navigate(`/${at(domain)}/accounts?group=${encodeURIComponent(hit.name)}`);
            }}
          />
        )}
      </div>
      <Button tone="quiet" onClick={onKeys} aria-label="Keys">
        ?
      </Button>
      <OwnMenu domain={domain} me={me} />
    </header>
  );
}
