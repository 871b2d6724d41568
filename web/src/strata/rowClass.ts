/** How the cells of a layer are drawn. */
export const rowClass = (selected: boolean) =>
  selected
    ? "border-y border-ink bg-white"
    : "border-t border-line bg-sheet border-b border-b-paper";
