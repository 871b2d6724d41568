import { useEffect, useId, useRef, useState, type RefObject } from "react";
import type { Schemas } from "../api/client";
import { useSearch, type Kind } from "../api/domains";
import { Swatch } from "../kit/Swatch";
import { TextInput } from "../kit/inputs";

type Hit = Schemas["Hit"];

interface Props {
  domain: string;
  kinds?: Kind[];
  label: string;
  placeholder: string;
  hint?: string;
  onPick: (hit: Hit) => void;
  onEscape?: () => void;
  inputRef?: RefObject<HTMLInputElement | null>;
  upwards?: boolean;
  autoFocus?: boolean;
}

const KIND: Record<Hit["kind"], string> = { account: "account", group: "group", policy: "policy" };

/** Search by name with a list to pick from (the combobox pattern of WAI-ARIA). */
export function Finder({
  domain,
  kinds = [],
  label,
  placeholder,
  hint,
  onPick,
  onEscape,
  inputRef,
  upwards,
  autoFocus,
}: Props) {
  const [text, setText] = useState("");
  const [open, setOpen] = useState(false);
  const [active, setActive] = useState(0);
  const own = useRef<HTMLInputElement>(null);
  const input = inputRef ?? own;
  const list = useId();
  // Enter was pressed before the hits of the text as it stands were there: the best of them is
  // taken when they come.
  const wanted = useRef("");
  const { data, isError, isPlaceholderData } = useSearch(domain, text, kinds);
  const searched = text.trim() !== "";
  // Hits of an earlier text stay in view, dimmed, so that nothing jumps; no key takes them.
  const ready = searched && data !== undefined && !isPlaceholderData && !isError;
  const hits = searched && data ? data.hits : [];
  const shown = open && searched;

  useEffect(() => {
    if (autoFocus) input.current?.focus();
  }, [autoFocus, input]);

  const pick = (hit: Hit | undefined) => {
    if (!hit) return;
    onPick(hit);
    setText("");
    wanted.current = "";
    setOpen(false);
  };
  const best = ready ? data.hits[0] : undefined;
  const take = useRef(pick);
  useEffect(() => {
    take.current = pick;
  });
  useEffect(() => {
    if (!ready && !isError) return;
    const pressed = wanted.current !== "" && wanted.current === text;
    wanted.current = "";
    if (pressed && best) take.current(best);
  }, [text, best, ready, isError]);

  return (
    <div className="relative">
      <TextInput
        ref={input}
        value={text}
        role="combobox"
        aria-label={label}
        aria-expanded={shown}
        aria-controls={list}
        aria-autocomplete="list"
        aria-activedescendant={shown && ready && hits.length ? `${list}-${active}` : undefined}
        placeholder={placeholder}
        autoComplete="off"
        spellCheck={false}
        className="w-full px-2.5 pr-8 text-sm placeholder:text-soft"
        onChange={(event) => {
          setText(event.target.value);
          wanted.current = "";
          setActive(0);
          setOpen(true);
        }}
        onFocus={() => setOpen(true)}
        // What was taken by Enter before its hits were there is still taken when they come.
        onBlur={() => setOpen(false)}
        onKeyDown={(event) => {
          if (event.key === "ArrowDown" || event.key === "ArrowUp") {
            event.preventDefault();
            setOpen(true);
            const step = event.key === "ArrowDown" ? 1 : -1;
            setActive((at) => (ready && hits.length ? (at + step + hits.length) % hits.length : 0));
          } else if (event.key === "Enter") {
            event.preventDefault();
            if (ready) pick(hits[active]);
            else if (searched) wanted.current = text;
          } else if (event.key === "Escape") {
            if (text) setText("");
            else onEscape?.();
            setOpen(false);
          }
        }}
      />
      {hint && !text && (
        <kbd
          aria-hidden
          className="absolute top-[5px] right-2 rounded border border-line bg-paper px-1 font-mono text-[11px] leading-4 text-soft"
        >
          {hint}
        </kbd>
      )}
      <Hits
        id={list}
        label={label}
        text={text}
        hits={hits}
        shown={shown}
        state={isError ? "failed" : ready ? "ready" : "searching"}
        active={active}
        upwards={upwards}
        onActive={setActive}
        onPick={pick}
      />
    </div>
  );
}

interface HitsProps {
  id: string;
  label: string;
  text: string;
  hits: Hit[];
  shown: boolean;
  state: "searching" | "ready" | "failed";
  active: number;
  upwards: boolean | undefined;
  onActive: (index: number) => void;
  onPick: (hit: Hit) => void;
}

function Hits({ id, label, text, hits, shown, state, active, upwards, ...act }: HitsProps) {
  const ready = state === "ready";
  return (
    <ul
      id={id}
      role="listbox"
      aria-label={label}
      hidden={!shown}
      aria-busy={shown && state === "searching"}
      className={`absolute left-0 z-40 max-h-80 w-full min-w-72 overflow-auto rounded-[5px] border border-edge bg-white py-1 shadow-lg ${upwards ? "bottom-8" : "top-8"}`}
    >
      {hits.map((hit, index) => (
        <li
          key={hit.kind + hit.dn}
          id={`${id}-${index}`}
          role="option"
          aria-selected={ready && index === active}
          className={`flex cursor-pointer items-center gap-2 px-2.5 py-1 ${ready ? "" : "opacity-60"} ${ready && index === active ? "bg-hover" : ""}`}
          // The list may open, or scroll, under a pointer that rests: such a pointer chooses nothing.
          onPointerMove={(event) => {
            if (event.movementX || event.movementY) act.onActive(index);
          }}
          onMouseDown={(event) => {
            event.preventDefault();
            act.onPick(hit);
          }}
        >
          {hit.kind === "policy" ? <Swatch mark={hit.mark} size={12} /> : null}
          <span className="truncate font-medium">{hit.name}</span>
          <span className="ml-auto shrink-0 text-xs text-soft">
            {KIND[hit.kind]} · {hit.detail}
          </span>
        </li>
      ))}
      {shown && state === "searching" && (
        <li
          role="option"
          aria-selected={false}
          aria-disabled
          className="appear px-2.5 py-1 text-soft"
        >
          Searching for “{text}” …
        </li>
      )}
      {shown && ready && hits.length === 0 && (
        <li role="option" aria-selected={false} aria-disabled className="px-2.5 py-1 text-soft">
          Nothing is named like “{text}”.
        </li>
      )}
      {shown && state === "failed" && (
        <li role="option" aria-selected={false} aria-disabled className="px-2.5 py-1 text-fail">
          The search failed; try again.
        </li>
      )}
    </ul>
  );
}
