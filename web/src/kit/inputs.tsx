// The one look of what is typed or chosen.
import type { ComponentProps } from "react";

const LINE =
  "min-w-0 rounded-[5px] border border-edge bg-white px-2 aria-invalid:border-fail disabled:bg-paper disabled:text-ink";

type Size = { size?: "plain" | "large" };

const HEIGHT = { plain: "h-7", large: "h-8" };

export function TextInput({
  className = "",
  size = "plain",
  ...rest
}: Omit<ComponentProps<"input">, "size"> & Size) {
  return <input className={`${LINE} ${HEIGHT[size]} ${className}`} {...rest} />;
}

/** Text of several lines. */
export function TextArea({ className = "", ...rest }: ComponentProps<"textarea">) {
  return <textarea className={`${LINE} block w-full py-1 ${className}`} {...rest} />;
}

/** A choice of a few or many from a list. */
export function Select({ className = "", ...rest }: ComponentProps<"select">) {
  return <select className={`${LINE} h-7 ${className}`} {...rest} />;
}
