import { useRef } from "react";
import { Button } from "../Button";
import { PlotFrame } from "../plot/PlotFrame";
import { saveSvg } from "../plot/saveSvg";

const BOX = { left: 52, right: 280, top: 40, bottom: 140 };
const ticks = (from: number, to: number) =>
  [0, 1, 2].map((step) => ({ at: from + ((to - from) * step) / 2, label: String(step * 5) }));

/** The frame of a plot with three axes and one mark, as a drawing to take away. */
export function Plots() {
  const drawing = useRef<SVGSVGElement>(null);
  return (
    <>
      <PlotFrame
        label="Tries against minutes, with one policy"
        width={300}
        height={180}
        box={BOX}
        bottom={{ title: "minutes a year", ticks: ticks(BOX.left, BOX.right) }}
        left={{ title: "tries", ticks: ticks(BOX.bottom, BOX.top) }}
        top={{ title: "locked accounts", ticks: ticks(BOX.left, BOX.right) }}
        textures={[{ id: "mark", mark: 1 }]}
        drawing={drawing}
      >
        <circle cx={160} cy={90} r={9} fill="url(#mark)" />
      </PlotFrame>
      <Button onClick={() => drawing.current && saveSvg(drawing.current, "plot")}>
        Export drawing
      </Button>
    </>
  );
}
