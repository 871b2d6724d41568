import { lookOf } from "../shared/look";
import type { PolicyMark } from "./plane";

const SIZE = 15;

/**
 * A policy as its texture, as it is live as an outline, a starting point or a baseline as a small
 * ring.
 */
export function PlotMark({
  mark,
  at,
  fill,
  own,
}: {
  mark: Pick<PolicyMark, "kind" | "name" | "mark">;
  at: { x: number; y: number };
  fill: string;
  /** Whose lines are drawn. */
  own: boolean;
}) {
  if (mark.kind === "start" || mark.kind === "baseline")
    return (
      <g>
        <title>{mark.name}</title>
        <circle
          cx={at.x}
          cy={at.y}
          r={mark.kind === "baseline" ? 7 : 4.5}
          fill="var(--color-white)"
          stroke="var(--color-ink)"
        />
      </g>
    );
  return (
    <g>
      <title>{mark.kind === "live" ? `${mark.name} as it is live` : mark.name}</title>
      <rect
        x={at.x - SIZE / 2}
        y={at.y - SIZE / 2}
        width={SIZE}
        height={SIZE}
        rx="3"
        fill={mark.kind === "live" ? "var(--color-sheet)" : fill}
        stroke={own ? "var(--color-ink)" : lookOf(mark.mark).ink}
        strokeWidth={own ? 2.5 : 1}
        strokeDasharray={mark.kind === "live" ? "3 2" : undefined}
      />
    </g>
  );
}
