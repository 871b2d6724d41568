import { useUrlState } from "../shared/useUrlState";
import { ExpiriesScreen } from "./ExpiriesScreen";
import { GuessingScreen } from "./GuessingScreen";

/** What is to come: what guessing costs, or on which days passwords end. */
export function ForecastScreen() {
  const [of] = useUrlState("of");
  return of === "expiries" ? <ExpiriesScreen /> : <GuessingScreen />;
}
