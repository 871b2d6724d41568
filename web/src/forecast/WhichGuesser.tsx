import { Choices } from "../kit/Choices";
import { useUrlState } from "../shared/useUrlState";

/** Whether a guesser lets the account lock or stays under the lock. */
export function WhichGuesser({ onChange }: { onChange?: () => void }) {
  const [plane, setPlane] = useUrlState("plane");
  return (
    <Choices
      label="Which guesser"
      value={plane === "window" ? "window" : "duration"}
      onChange={(next) => {
        onChange?.();
        setPlane(next === "window" ? next : "");
      }}
      choices={[
        { value: "duration", label: "Lets it lock" },
        { value: "window", label: "Stays under it" },
      ]}
    />
  );
}
