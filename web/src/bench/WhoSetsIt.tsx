import { Choices } from "../kit/Choices";
import { useBench } from "./BenchProvider";

/** Whether its owner changes the password or an operator resets it. */
export function WhoSetsIt() {
  const { circumstances, setCircumstances } = useBench();
  return (
    <Choices
      label="Who sets it"
      value={circumstances.operation}
      onChange={(operation) => setCircumstances({ ...circumstances, operation })}
      choices={[
        { value: "change", label: "Own change" },
        { value: "reset", label: "Operator reset" },
      ]}
    />
  );
}
