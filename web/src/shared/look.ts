// Each policy's hue and texture, from its mark. Eleven hues and eight textures come together in 88
// ways before one repeats.
// A fill stands out 3 : 1 from the sheet by day and by lamplight, and its strokes from it; ink is
// for names, light is ink by lamplight.
const HUES = [
  { fill: "#b5665b", ink: "#8d3f36", light: "#d09d97" },
  { fill: "#639799", ink: "#2f6668", light: "#89b1b3" },
  { fill: "#957733", ink: "#7c5d0f", light: "#c6a659" },
  { fill: "#7b965c", ink: "#48662c", light: "#9ab180" },
  { fill: "#8d71a2", ink: "#634679", light: "#b6a3c3" },
  { fill: "#7091bb", ink: "#3b5d8c", light: "#93abcc" },
  { fill: "#b6673a", ink: "#94491f", light: "#d69e7d" },
  { fill: "#9a8d72", ink: "#655a45", light: "#b3a894" },
  { fill: "#b26287", ink: "#853a5f", light: "#ce9cb3" },
  { fill: "#659982", ink: "#2a5c47", light: "#8cb2a1" },
  { fill: "#7d7e51", ink: "#57591f", light: "#abac7e" },
] as const;

// Strokes of a 12 × 12 tile.
const TEXTURES = [
  `<circle cx="3" cy="3" r="1.3" fill="S" stroke="none"/><circle cx="9" cy="9" r="1.3" fill="S" stroke="none"/>`,
  `<path d="M0 2.5h12M0 6.5h12M0 10.5h12"/>`,
  `<path d="M-3 9 9-3M0 12 12 0M3 15 15 3"/>`,
  `<path d="M0 .5h12M0 6.5h12M3 .5v6M9 6.5v6"/>`,
  `<path d="M3 1v4M1 3h4M9 7v4M7 9h4"/>`,
  `<path d="M1 3h4M7 9h4"/>`,
  `<path d="M0 4l3-3 3 3 3-3 3 3M0 10l3-3 3 3 3-3 3 3"/>`,
  `<path d="M6 0v12M0 6h12"/>`,
] as const;

/** The colours of paper, for what is printed or saved: the sheet by day, whatever the screen shows. */
export const PAPER = {
  page: "#fff",
  sheet: "#fdfbf6",
  bed: "#e9e3d7",
  line: "#dfd8ca",
  ink: "#20252b",
  soft: "#5f5a50",
  warn: "#7d5200",
} as const;

export interface Look {
  /** For names and thin lines, by day or by lamplight. */
  ink: string;
  /** The same where it is printed or saved. */
  printed: string;
  solid: string;
  ghost: string;
}

function tile(shape: string, stroke: string, back: string): string {
  const body = shape.replaceAll('"S"', `"${stroke}"`);
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="12" height="12"><rect width="12" height="12" fill="${back}"/><g fill="none" stroke="${stroke}" stroke-width="1.1">${body}</g></svg>`;
  return `url("data:image/svg+xml,${encodeURIComponent(svg)}")`;
}

const BEDROCK: Look = {
  ink: "light-dark(#4c483f, #b5ad9f)",
  printed: "#4c483f",
  solid: tile(`<path d="M0 3l4 3 4-4 4 1M0 10l3-2 4 3 5-2"/>`, PAPER.sheet, "#7f7b73"),
  ghost: "none",
};

const known = new Map<number, Look>();

export function lookOf(mark: number | null): Look {
  if (mark === null) return BEDROCK;
  let look = known.get(mark);
  if (!look) {
    const hue = HUES[mark % HUES.length] ?? HUES[0];
    const shape = TEXTURES[mark % TEXTURES.length] ?? TEXTURES[0];
    look = {
      ink: `light-dark(${hue.ink}, ${hue.light})`,
      printed: hue.ink,
      solid: tile(shape, PAPER.sheet, hue.fill),
      ghost: tile(shape, hue.fill, "none"),
    };
    known.set(mark, look);
  }
  return look;
}
