// Where the focus goes when what had it is gone, or when something has just been done.
import { useEffect } from "react";

/** Longer than any answer takes, in milliseconds; whoever does not wait ends it by going on. */
const PATIENCE = 60_000;

const isOff = (element: Element | null) => (element as HTMLButtonElement | null)?.disabled === true;

/** How many next steps are waited for to be there. */
let awaited = 0;

/** How often something was typed into a field. */
let typed = 0;
document.addEventListener(
  "beforeinput",
  (event) => {
    // Enter in a field of one line sends what is in it.
    if (event.inputType !== "insertLineBreak") typed += 1;
  },
  { capture: true },
);

/** Where somebody is, and how far they have typed. */
interface Standing {
  focused: Element | null;
  typed: number;
}

/**
 * Whether somebody has gone on from where they were: typed, or taken the focus elsewhere. The screen
 * and an open panel take it by themselves, and its first field; any other field was chosen by
 * somebody.
 */
function goneOn(from: Standing) {
  const now = document.activeElement;
  if (typed !== from.typed) return true;
  if (!now || now === from.focused || now === document.body || now.id === "screen") return false;
  if (!now.closest("#details")) return true;
  return now.matches("input, textarea, select") && !now.hasAttribute("data-first");
}

/**
 * Focus what is found, as soon as it is there; nothing if somebody has gone on from where they
 * were.
 */
function focusWhenThere(from: Standing, find: () => HTMLElement | null) {
  const until = performance.now() + PATIENCE;
  awaited += 1;
  const look = () => {
    const element = goneOn(from) ? null : find();
    if (element && !isOff(element)) element.focus();
    else if (!goneOn(from) && performance.now() < until) {
      requestAnimationFrame(look);
      return;
    }
    awaited -= 1;
  };
  requestAnimationFrame(look);
}

/**
 * Gives the focus back to what had it `before`, if nothing has it once what closes is gone; to the
 * screen where a next step is still awaited, which takes it from there.
 */
export function giveBack(before: Element | null) {
  requestAnimationFrame(() => {
    if (document.activeElement && document.activeElement !== document.body) return;
    const kept = awaited === 0 && before?.isConnected && before !== document.body;
    const back = kept ? before : document.getElementById("screen");
    if (back instanceof HTMLElement) back.focus({ preventScroll: true });
  });
}

/**
 * Where the focus goes once what is begun now is answered: called when it begins, for who goes on
 * before the answer is left alone.
 */
export function focusAfterwards() {
  const from = { focused: document.activeElement, typed };
  return {
    /** Focus what carries this id: the next step. */
    on: (id: string) => focusWhenThere(from, () => document.getElementById(id)),
    /** Focus the first field in the open panel whose value was refused. */
    onRefused: () =>
      focusWhenThere(from, () =>
        document.querySelector<HTMLElement>("#details [aria-invalid=true]"),
      ),
  };
}

/** Focus what carries this id as soon as it is there. */
export const focusOn = (id: string) => focusAfterwards().on(id);

/** Places that take the focus when the element in them that had it is gone or switched off. */
const KEEPERS = "[role=dialog], #details, .bench, main";

/** The focus is on nothing, or on what was switched off, which the browser lets go of soon. */
const lost = () => {
  const now = document.activeElement;
  return now === null || now === document.body || isOff(now);
};

/** Never lets the focus fall to the body because what had it was taken away. */
export function useFocusKept() {
  useEffect(() => {
    let last: Element | null = null;
    let keeper: Element | null = null;
    // Whether what has the focus was switched off meanwhile, if only for a moment.
    let off = false;
    const seen = (event: FocusEvent) => {
      if (!(event.target instanceof Element)) return;
      last = event.target;
      off = false;
      keeper = event.target.closest(KEEPERS);
    };
    const look = () => {
      if (!lost() || !last || (last.isConnected && !off)) return;
      off = false;
      if (last instanceof HTMLElement && last.isConnected && !isOff(last)) {
        last.focus({ preventScroll: true });
        return;
      }
      const taker =
        keeper?.isConnected && keeper.childElementCount > 0 && keeper.checkVisibility()
          ? keeper
          : document.getElementById("screen");
      const inner = taker?.id === "details" ? taker.firstElementChild : taker;
      if (inner instanceof HTMLElement) inner.focus({ preventScroll: true });
    };
    // The browser itself lets go of what was switched off when it draws next.
    const watch = new MutationObserver(() => {
      off ||= isOff(last);
      requestAnimationFrame(() => requestAnimationFrame(look));
    });
    document.addEventListener("focusin", seen);
    watch.observe(document.body, {
      childList: true,
      subtree: true,
      attributes: true,
      attributeFilter: ["disabled"],
    });
    return () => {
      document.removeEventListener("focusin", seen);
      watch.disconnect();
    };
  }, []);
}
