// The axes that every plot has: ticks with their labels, a line for each across the plane, a title.
export interface Tick {
  at: number;
  label: string;
}

const LINE = "var(--color-line)";
const SOFT = "var(--color-soft)";

interface Props {
  ticks: Tick[];
  title: string;
  /** Edges of the plane, in px. */
  left: number;
  right: number;
  top: number;
  bottom: number;
}

export function BottomAxis({ ticks, title, left, right, top, bottom }: Props) {
  return (
    <g>
      {ticks.map((tick) => (
        <g key={tick.at}>
          <path d={`M${tick.at} ${top}V${bottom}`} stroke={LINE} />
          <text x={tick.at} y={bottom + 14} textAnchor="middle" fill={SOFT}>
            {tick.label}
          </text>
        </g>
      ))}
      <text x={(left + right) / 2} y={bottom + 30} textAnchor="middle">
        {title}
      </text>
    </g>
  );
}

/** Other words for the ticks of the axis below. */
export function TopAxis({ ticks, title, left, right, top }: Props) {
  return (
    <g>
      {ticks.map((tick) => (
        <text key={tick.at} x={tick.at} y={top - 6} textAnchor="middle" fill={SOFT}>
          {tick.label}
        </text>
      ))}
      <text x={(left + right) / 2} y={top - 22} textAnchor="middle">
        {title}
      </text>
    </g>
  );
}

export function LeftAxis({ ticks, title, left, right, top, bottom }: Props) {
  return (
    <g>
      {ticks.map((tick) => (
        <g key={tick.at}>
          <path d={`M${left} ${tick.at}H${right}`} stroke={LINE} />
          <text x={left - 6} y={tick.at + 4} textAnchor="end" fill={SOFT}>
            {tick.label}
          </text>
        </g>
      ))}
      <text transform={`translate(12 ${(top + bottom) / 2}) rotate(-90)`} textAnchor="middle">
        {title}
      </text>
    </g>
  );
}
