import { useEffect } from "react";

/** The title of the page: what is on it, and whose. */
export function useTitle(...parts: (string | undefined | false)[]) {
  const title = [...parts.filter(Boolean), "Hornfels"].join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
}
