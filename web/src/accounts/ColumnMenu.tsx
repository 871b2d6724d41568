import { Button } from "../kit/Button";
import { Drop } from "../kit/Drop";
import { COLUMNS, type Column } from "./columns";

/** Which columns the table has; this browser keeps the choice. */
export function ColumnMenu({
  columns,
  onChoose,
}: {
  columns: Column[];
  onChoose: (key: string, on: boolean) => void;
}) {
  return (
    <Drop label="Columns" align="end" trigger={<Button>Columns</Button>}>
      {COLUMNS.filter((column) => column.key !== "name").map((column) => (
        <label key={column.key} className="flex h-7 items-center gap-2">
          <input
            type="checkbox"
            checked={columns.includes(column)}
            onChange={(event) => onChoose(column.key, event.target.checked)}
          />
          {column.title}
        </label>
      ))}
    </Drop>
  );
}
