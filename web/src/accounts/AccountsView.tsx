import { Choices } from "../kit/Choices";
import { useUrlState } from "../shared/useUrlState";

/** Everyone, or those who are locked and close to it. How many that are stands in the top bar. */
export function AccountsView() {
  const [view, setView] = useUrlState("view");
  return (
    <Choices
      label="Which accounts"
      value={view === "locked" ? "locked" : "everyone"}
      onChange={(next) => setView(next === "locked" ? "locked" : "")}
      choices={[
        { value: "everyone", label: "Everyone" },
        { value: "locked", label: "Locked" },
      ]}
    />
  );
}
