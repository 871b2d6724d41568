import { Choices } from "../kit/Choices";
import { useUrlState } from "../shared/useUrlState";

export const FORECASTS = ["guessing", "burden", "expiries"] as const;
export type Forecast = (typeof FORECASTS)[number];

export const forecastIn = (of: string): Forecast =>
  FORECASTS.find((one) => one === of) ?? "guessing";

const LABELS: Record<Forecast, string> = {
  guessing: "Guessing",
  burden: "Burden",
  expiries: "Expiries",
};

/** Which of the forecasts is shown. */
export function WhichForecast() {
  const [of, setOf] = useUrlState("of");
  return (
    <Choices
      label="Which forecast"
      value={forecastIn(of)}
      onChange={(next) => setOf(next === "guessing" ? "" : next)}
      choices={FORECASTS.map((value) => ({ value, label: LABELS[value] }))}
    />
  );
}
