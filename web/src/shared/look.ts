// Each policy's hue and texture, from its mark. Eleven hues and eight textures come together in 88 ways before one repeats.
const HUES = [
  { fill: "#b5665c", ink: "#8d3f36" },
  { fill: "#6d9ea0", ink: "#2f6668" },
  { fill: "#c4a252", ink: "#7c5d0f" },
  { fill: "#87a368", ink: "#48662c" },
  { fill: "#957ba9", ink: "#634679" },
  { fill: "#7f9cc2", ink: "#3b5d8c" },
  { fill: "#d08f6a", ink: "#94491f" },
  { fill: "#a89c85", ink: "#655a45" },
  { fill: "#c07f9d", ink: "#853a5f" },
  { fill: "#5f8f7a", ink: "#2a5c47" },
  { fill: "#8b8d5a", ink: "#57591f" },
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

export interface Look {
  fill: string;
  ink: string;
  solid: string;
  ghost: string;
}

function tile(shape: string, stroke: string, back: string): string {
  const body = shape.replaceAll('"S"', `"${stroke}"`);
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="12" height="12"><rect width="12" height="12" fill="${back}"/><g fill="none" stroke="${stroke}" stroke-width="1.1">${body}</g></svg>`;
  return `url("data:image/svg+xml,${encodeURIComponent(svg)}")`;
}

const BEDROCK: Look = {
  fill: "#8a867d",
  ink: "#4c483f",
  solid: tile(`<path d="M0 3l4 3 4-4 4 1M0 10l3-2 4 3 5-2"/>`, "#c9c5bb", "#87837a"),
  ghost: "none",
};

const known = new Map<number, Look>();

export function lookOf(mark: number | null): Look {
  if (mark === null) return BEDROCK;
  let look = known.get(mark);
  if (!look) {
    const hue = HUES[mark % HUES.length] ?? HUES[0];
    const shape = TEXTURES[mark % TEXTURES.length] ?? TEXTURES[0];
    look = { ...hue, solid: tile(shape, "#ffffffb8", hue.fill), ghost: tile(shape, `${hue.fill}d0`, "#fdfbf6") };
    known.set(mark, look);
  }
  return look;
}
