import { Popover } from "radix-ui";
import { Button } from "../shared/controls";
import { COLUMNS, type Column } from "./columns";

/** Which columns the table has; this browser keeps the choice. */
export function ColumnMenu({ columns, onChoose }: { columns: Column[]; onChoose: (key: string, on: boolean) => void }) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button>Columns</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          collisionPadding={8}
          aria-label="Columns"
          className="z-50 max-h-[var(--radix-popover-content-available-height)] overflow-y-auto rounded-lg border border-edge bg-sheet p-3 shadow-lg"
        >
          {COLUMNS.filter((column) => column.key !== "name").map((column) => (
            <label key={column.key} className="flex h-7 items-center gap-2">
              <input type="checkbox" checked={columns.includes(column)} onChange={(event) => onChoose(column.key, event.target.checked)} />
              {column.title}
            </label>
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
