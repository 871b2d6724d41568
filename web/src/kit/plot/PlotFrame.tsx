import type { ReactNode, Ref } from "react";
import { BottomAxis, LeftAxis, TopAxis, type Tick } from "./Axes";
import { Texture } from "./Texture";

/** The edges of the plane inside a drawing, in px. */
export interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

interface Axis {
  title: string;
  ticks: Tick[];
}

interface Props {
  /** The drawing in words, for users who do not see the drawing. */
  label: string;
  width: number;
  height: number;
  box: Box;
  bottom: Axis;
  left: Axis;
  top?: Axis;
  /** True for a ground with lines across from every tick. */
  plane?: boolean;
  /** The textures of policies that marks are filled with: `url(#id)`. */
  textures: { id: string; mark: number | null }[];
  drawing: Ref<SVGSVGElement>;
  children: ReactNode;
}

/** The frame that every plot is drawn in: textures, ground and axes. */
export function PlotFrame({ label, width, height, box, plane = true, ...props }: Props) {
  const { bottom, left, top, textures, drawing, children } = props;
  return (
    <svg
      ref={drawing}
      role="img"
      aria-label={label}
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      className="block text-[11px]"
      fill="var(--color-ink)"
    >
      <defs>
        {textures.map(({ id, mark }) => (
          <Texture key={id} id={id} mark={mark} />
        ))}
      </defs>
      {plane && (
        <rect
          x={box.left}
          y={box.top}
          width={box.right - box.left}
          height={box.bottom - box.top}
          fill="var(--color-sheet)"
          stroke="var(--color-edge)"
        />
      )}
      <LeftAxis {...box} {...left} />
      <BottomAxis {...box} top={plane ? box.top : box.bottom} {...bottom} />
      {top && <TopAxis {...box} {...top} />}
      {children}
    </svg>
  );
}
