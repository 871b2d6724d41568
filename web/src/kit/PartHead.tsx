import type { ReactNode } from "react";

interface Props {
  level?: 2 | 3 | 4;
  children: ReactNode;
  /** What stands at its end. */
  beside?: ReactNode;
}

/** The head of a part of a panel. */
export function PartHead({ level = 3, children, beside }: Props) {
  const Heading = `h${level}` as const;
  return (
    <div className="mb-0.5 flex items-center justify-between gap-2 border-b border-line pb-0.5">
      <Heading className="font-head text-sm font-semibold">{children}</Heading>
      {beside}
    </div>
  );
}
