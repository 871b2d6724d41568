import { useParams } from "react-router";
import type { ComponentProps, ReactNode, Ref } from "react";
import { domainOf } from "../draft/place";
import { useTitle } from "../shared/useTitle";
import { ShownAs } from "./ShownAs";
import { WhichForecast } from "./WhichForecast";

interface Props {
  /** What the part below the head is called. */
  label: string;
  /** What is chosen for this forecast alone. */
  choices: ReactNode;
  /** The drawing and the numbers, to take away; the name is without the domain's. */
  shown: ComponentProps<typeof ShownAs>;
  /** Measures how wide a drawing may be. */
  room: Ref<HTMLDivElement>;
  children: ReactNode;
}

/** What every forecast has: which one it is, what is chosen, and the way to take it away. */
export function ForecastFrame({ label, choices, shown, room, children }: Props) {
  const { domain = "" } = useParams();
  useTitle("Forecast", domainOf(domain));
  return (
    <div className="flex h-full flex-col small:block small:overflow-auto">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 pt-2.5 pb-2 small:px-2 small:pt-1">
        <h1 className="text-base">Forecast</h1>
        <WhichForecast />
        {choices}
        <ShownAs {...shown} name={`${domainOf(domain)}-${shown.name}`} />
      </div>
      <div
        ref={room}
        tabIndex={0}
        role="group"
        aria-label={label}
        className="min-h-0 flex-1 space-y-2 overflow-auto px-4 pb-3 small:overflow-visible small:px-2"
      >
        {children}
      </div>
    </div>
  );
}
