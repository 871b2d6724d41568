import { useCallback } from "react";
import { PAGE } from "../api/accounts";
import type { Schemas } from "../api/client";
import { VirtualTable } from "../kit/VirtualTable";
import { AccountCell } from "./AccountCell";
import type { Column } from "./columns";

interface Props {
  total: number;
  pages: Schemas["AccountPage"][];
  columns: Column[];
  order: string;
  descending: boolean;
  onOrder: (order: string, descending: boolean) => void;
  selected: string;
  onSelect: (name: string) => void;
  onPage: (page: number) => void;
}

/** Everyone, however many: only the pages of the rows in view are fetched. */
export function AccountTable({ pages, selected, onSelect, onPage, ...rest }: Props) {
  const onMiddle = useCallback((index: number) => onPage(Math.floor(index / PAGE)), [onPage]);
  return (
    <VirtualTable
      label="Accounts"
      rowAt={(index) => {
        const page = pages.find(({ offset, rows }) => index >= offset && rows[index - offset]);
        return page?.rows[index - page.offset];
      }}
      cell={(row, column) => <AccountCell column={column.key} row={row} />}
      isSelected={(row) => row.name === selected}
      onSelect={(row) => onSelect(row.name)}
      onMiddle={onMiddle}
      {...rest}
    />
  );
}
