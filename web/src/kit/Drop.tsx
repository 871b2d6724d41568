import { Popover } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  label: string;
  trigger: ReactNode;
  side?: "top" | "bottom";
  align?: "start" | "end";
  className?: string;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
  children: ReactNode;
}

/** What a button opens beside it, never larger than the room there is. */
export function Drop({
  label,
  trigger,
  side = "bottom",
  align = "start",
  className = "",
  open,
  onOpenChange,
  children,
}: Props) {
  return (
    <Popover.Root open={open} onOpenChange={onOpenChange}>
      <Popover.Trigger asChild>{trigger}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side={side}
          align={align}
          sideOffset={6}
          collisionPadding={8}
          aria-label={label}
          className={`z-50 max-h-[min(80vh,var(--radix-popover-content-available-height))] max-w-[calc(100vw-16px)] overflow-y-auto rounded-lg border border-edge bg-sheet p-4 shadow-lg ${className}`}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
