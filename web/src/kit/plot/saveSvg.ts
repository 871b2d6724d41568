// A plot as a file of its own: no styles or fonts from outside, in the colours of paper.
import { PAPER } from "../../shared/look";
import { saveFile } from "../../shared/saveFile";

const COLOURS: Record<string, string> = {
  ink: PAPER.ink,
  soft: PAPER.soft,
  line: PAPER.line,
  white: PAPER.page,
  sheet: PAPER.sheet,
  edge: PAPER.soft,
  fail: "#a3271c",
};

/** The drawing as text, every colour by its value on paper. */
export function svgOf(drawing: SVGSVGElement): string {
  const copy = drawing.cloneNode(true) as SVGSVGElement;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("font-family", "sans-serif");
  copy.setAttribute("font-size", "11");
  copy.removeAttribute("class");
  return new XMLSerializer()
    .serializeToString(copy)
    .replace(/var\(--color-(\w+)\)/g, (_, name: string) => COLOURS[name] ?? PAPER.ink)
    .replace(/light-dark\((#\w+),[^)]*\)/g, "$1");
}

/** Hand a drawing to the browser as a file. */
export const saveSvg = (drawing: SVGSVGElement, name: string) =>
  saveFile(svgOf(drawing), "image/svg+xml", `${name}.svg`);
