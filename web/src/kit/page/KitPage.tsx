import type { ReactNode } from "react";
import { Alerts } from "./Alerts";
import { Buttons } from "./Buttons";
import { Fields } from "./Fields";
import { Forms } from "./Forms";
import { Panels } from "./Panels";
import { Plots } from "./Plots";
import { Tables } from "./Tables";

const PARTS: Record<string, ReactNode> = {
  Buttons: <Buttons />,
  Fields: <Fields />,
  Forms: <Forms />,
  "Alerts and states": <Alerts />,
  Panels: <Panels />,
  Tables: <Tables />,
  Plots: <Plots />,
};

/** Every part of the kit in every state. */
export function KitPage() {
  return (
    <main
      id="screen"
      tabIndex={-1}
      className="h-full space-y-6 overflow-y-auto bg-paper p-4 small:p-2"
    >
      <h1 className="text-base">Kit</h1>
      {Object.entries(PARTS).map(([title, part]) => (
        <section key={title} aria-label={title} className="max-w-[720px] space-y-2">
          <h2 className="border-b border-line text-sm">{title}</h2>
          {part}
        </section>
      ))}
    </main>
  );
}
