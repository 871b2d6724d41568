import { useState } from "react";
import { Table } from "../Table";
import { VirtualTable, type TableColumn } from "../VirtualTable";

const TOTAL = 100_000;
const COLUMNS: TableColumn[] = [
  { key: "name", title: "Account", order: "name", width: "1fr", least: 90 },
  { key: "policy", title: "Policy", width: "1fr", least: 90 },
];

/** A short table, and a long one of which only the rows in view are drawn. */
export function Tables() {
  const [selected, select] = useState(-1);
  const [descending, setDescending] = useState(false);
  return (
    <>
      <Table label="Users" heads={["Name", "Role"]}>
        <tr>
          <th scope="row" className="font-medium">
            ann
          </th>
          <td>administrator</td>
        </tr>
      </Table>
      <div className="flex h-56 flex-col">
        <VirtualTable
          label="Accounts"
          total={TOTAL}
          columns={COLUMNS}
          order="name"
          descending={descending}
          onOrder={(_, down) => setDescending(down)}
          rowAt={(index) => (index % 7 === 3 ? undefined : { index })}
          cell={({ index }, { key }) => (
            <span role="cell">
              {key === "name"
                ? `account-${descending ? TOTAL - 1 - index : index}`
                : "Night operators"}
            </span>
          )}
          isSelected={({ index }) => index === selected}
          onSelect={({ index }) => select(index)}
          onMiddle={() => undefined}
        />
      </div>
    </>
  );
}
