import { useUrlState } from "../shared/useUrlState";
import { BurdenScreen } from "./BurdenScreen";
import { ExpiriesScreen } from "./ExpiriesScreen";
import { GuessingScreen } from "./GuessingScreen";
import { forecastIn } from "./WhichForecast";

const SCREENS = { guessing: GuessingScreen, burden: BurdenScreen, expiries: ExpiriesScreen };

/** What is to come: what guessing costs, what people bear for it, and when passwords end. */
export function ForecastScreen() {
  const [of] = useUrlState("of");
  const Screen = SCREENS[forecastIn(of)];
  return <Screen />;
}
