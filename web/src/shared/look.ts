// Each policy's hue and texture, from its mark. Eleven hues and eight textures come together in 88
// ways before one repeats. The table is the one that reports are drawn by.
// A fill stands out 3 : 1 from the sheet by day and by lamplight, and its strokes from it; ink is
// for names, light is ink by lamplight.
import looks from "../../../src/hornfels/formats/reports/looks.json";

const { hues: HUES, textures: TEXTURES } = looks;

/** The colours of paper, for what is saved: the sheet by day, whatever the screen shows. */
export const PAPER = looks.paper;

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
  ink: `light-dark(${looks.bedrock.ink}, ${looks.bedrock.light})`,
  printed: looks.bedrock.ink,
  solid: tile(looks.bedrock_texture, PAPER.sheet, looks.bedrock.fill),
  ghost: "none",
};

const known = new Map<number, Look>();

export function lookOf(mark: number | null): Look {
  if (mark === null) return BEDROCK;
  let look = known.get(mark);
  if (!look) {
    const hue = HUES[mark % HUES.length] ?? looks.bedrock;
    const shape = TEXTURES[mark % TEXTURES.length] ?? "";
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
