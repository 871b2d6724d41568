import { useSyncExternalStore } from "react";

// The same condition as the variant "small" of the styles.
const small = window.matchMedia("(width < 900px) or (height < 560px)");

const subscribe = (listener: () => void) => {
  small.addEventListener("change", listener);
  return () => small.removeEventListener("change", listener);
};

/** Whether the window is too small for a panel beside the screen. */
export const useSmall = () => useSyncExternalStore(subscribe, () => small.matches);
