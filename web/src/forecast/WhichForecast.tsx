import { Choices } from "../shared/controls";
import { useUrlState } from "../shared/useUrlState";

/** Which of the forecasts is shown. */
export function WhichForecast() {
  const [of, setOf] = useUrlState("of");
  return (
    <Choices
      label="Which forecast"
      value={of === "expiries" ? "expiries" : "guessing"}
      onChange={(next) => setOf(next === "expiries" ? next : "")}
      choices={[
        { value: "guessing", label: "Guessing" },
        { value: "expiries", label: "Expiries" },
      ]}
    />
  );
}
