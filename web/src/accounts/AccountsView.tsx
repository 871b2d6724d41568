import { useLocks } from "../api/locks";
import { Choices } from "../shared/controls";
import { useUrlState } from "../shared/useUrlState";

/** Everyone, or those who are locked and close to it. */
export function AccountsView({ domain }: { domain: string }) {
  const [view, setView] = useUrlState("view");
  const locked = useLocks(domain).data?.locked_total;
  return (
    <Choices
      label="Which accounts"
      value={view === "locked" ? "locked" : "everyone"}
      onChange={(next) => setView(next === "locked" ? "locked" : "")}
      choices={[
        { value: "everyone", label: "Everyone" },
        {
          value: "locked",
          label: locked === undefined ? "Locked" : `Locked ${locked.toLocaleString("en")}`,
        },
      ]}
    />
  );
}
