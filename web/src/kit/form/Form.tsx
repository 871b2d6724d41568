import type { ComponentProps } from "react";
import { useEffect, useEffectEvent, useRef } from "react";

interface Props<T> extends Omit<ComponentProps<"form">, "onSubmit" | "aria-label"> {
  /** The state of the form, as `useForm` returns. */
  of: { value: T; busy: boolean };
  label?: string;
  /** Send what is typed. Called by Enter and by the button of type submit. */
  onSubmit: () => void;
}

/**
 * A form. Enter sends what is typed. While a write is under way, Enter waits for the end of the
 * write, and sends again only if more was typed.
 */
export function Form<T>({ of, label, onSubmit, ...rest }: Props<T>) {
  const sent = useRef<T | null>(null);
  const again = useRef(false);
  const send = () => {
    sent.current = of.value;
    onSubmit();
  };
  const sendAgain = useEffectEvent(send);
  useEffect(() => {
    if (of.busy || !again.current) return;
    again.current = false;
    sendAgain();
  }, [of.busy]);
  const submit = () => {
    if (of.busy) again.current = of.value !== sent.current;
    else send();
  };
  return (
    <form
      aria-label={label}
      onSubmit={(event) => {
        event.preventDefault();
        submit();
      }}
      {...rest}
    />
  );
}
