// The section as a drawing of its own, for a report: no styles or fonts from outside, prints on
// white.
import type { Schemas } from "../api/client";
import { lookOf, PAPER } from "../shared/look";
import { momentText } from "../shared/moments";
import { saveFile } from "../shared/saveFile";
import { layOut, prefixOf, shortened } from "./columns";

const LABELS = 250;
const HEAD = 64;
const ROW = 36;
const WIDTH = 1100;

const text = (value: string) =>
  value.replace(
    /[&<>"]/g,
    (c) => ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" })[c] ?? c,
  );

/** A name in level lines of so many letters, broken where it may be. */
function lines(name: string, letters: number): string[] {
  const found: string[] = [];
  for (const part of name.split(/(?<=[-_. ])/)) {
    const last = found.at(-1);
    if (last !== undefined && last.length + part.length <= letters)
      found[found.length - 1] = last + part;
    else found.push(part);
  }
  return found;
}

/** A texture as an SVG pattern, from the same tile that the screen uses. */
function pattern(id: string, image: string): string {
  const tile = decodeURIComponent(image.slice('url("data:image/svg+xml,'.length, -2)).replace(
    /^<svg[^>]*>|<\/svg>$/g,
    "",
  );
  return `<pattern id="${id}" width="12" height="12" patternUnits="userSpaceOnUse">${tile}</pattern>`;
}

export function sectionSvg(strata: Schemas["Strata"]): string {
  const { layers, populations, bedrock, domain } = strata;
  const { columns, rest } = layOut(populations, WIDTH - LABELS - 20, false, new Set());
  const prefix = prefixOf(populations);
  const marks = [...layers.map((l) => l.mark), null];
  const defs = marks.flatMap((mark) => {
    const look = lookOf(mark);
    return [
      pattern(`s${mark}`, look.solid),
      ...(mark === null ? [] : [pattern(`g${mark}`, look.ghost)]),
    ];
  });
  const rowOf = new Map(layers.map((l, n) => [l.guid, n]));
  const y = (row: number) => HEAD + row * ROW;
  const out: string[] = [];
  layers.forEach((layer, row) => {
    out.push(
      `<rect x="0" y="${y(row)}" width="${WIDTH}" height="${ROW - 2}" fill="${PAPER.sheet}" stroke="${PAPER.line}"/>`,
    );
    out.push(
      `<text x="34" y="${y(row) + 21}" text-anchor="end" font-weight="600">${layer.precedence}</text>`,
    );
    out.push(
      `<rect x="42" y="${y(row) + 10}" width="14" height="14" rx="3" fill="url(#s${layer.mark})"/>`,
    );
    out.push(
      `<text x="64" y="${y(row) + 15}" font-weight="600">${text(layer.name)}${layer.ties.length ? " △ tie" : ""}</text>`,
    );
    out.push(
      `<text x="64" y="${y(row) + 29}" font-size="11" fill="${PAPER.soft}">${text(layer.summary)}</text>`,
    );
    if (layer.idle)
      out.push(
        `<text x="${LABELS + 8}" y="${y(row) + 21}" font-size="11" fill="${PAPER.warn}">△ ${text(layer.idle)}</text>`,
      );
  });
  const base = y(layers.length);
  out.push(`<rect x="0" y="${base}" width="${WIDTH}" height="${ROW}" fill="${PAPER.bed}"/>`);
  out.push(`<text x="10" y="${base + 15}" font-weight="600">Bedrock: domain policy</text>`);
  out.push(
    `<text x="10" y="${base + 29}" font-size="11" fill="${PAPER.soft}">${text(bedrock.summary)}</text>`,
  );
  for (const { population, left, width } of columns) {
    const x = LABELS + left;
    const centre = x + width / 2;
    for (const cell of population.cells) {
      const row = rowOf.get(cell.guid) ?? 0;
      const mark = layers[row]?.mark ?? null;
      const dashed = cell.holds ? "" : ` stroke="${lookOf(mark).printed}" stroke-dasharray="3 2"`;
      out.push(
        `<rect x="${x + 2}" y="${y(row) + 3}" width="${width - 4}" height="${ROW - 8}" rx="3" fill="url(#${cell.holds ? "s" : "g"}${mark})"${dashed}/>`,
      );
    }
    const at =
      population.winner === "domain"
        ? layers.length
        : (rowOf.get(population.winner) ?? layers.length);
    const mark = population.winner === "domain" ? null : (layers[at]?.mark ?? null);
    if (at === layers.length)
      out.push(
        `<rect x="${x + 2}" y="${base + 3}" width="${width - 4}" height="${ROW - 6}" rx="3" fill="url(#snull)"/>`,
      );
    const direct = population.source === "account";
    out.push(
      `<path d="M${centre} ${HEAD - 2}V${y(at) + 3}" stroke="${lookOf(mark).printed}" stroke-width="${direct ? 5 : 1.5}"/>`,
    );
    if (direct)
      out.push(`<path d="M${centre} ${HEAD - 8}l5 5-5 5-5-5z" fill="${lookOf(mark).printed}"/>`);
    lines(shortened(population.who, prefix), Math.floor(width / 6.2)).forEach((line, n, all) => {
      out.push(
        `<text x="${centre}" y="${HEAD - 12 - 13 * (all.length - 1 - n)}" text-anchor="middle" font-size="11">${text(line)}</text>`,
      );
    });
    out.push(
      `<text x="${centre}" y="${base + ROW + 17}" text-anchor="middle" font-size="11">${population.count.toLocaleString("en")}</text>`,
    );
  }
  const read = momentText(domain.loaded_at);
  const left = rest.length + strata.unlisted.populations;
  const foot = `${domain.dns_name}, read from ${domain.source} on ${read}, ${domain.accounts.toLocaleString("en")} accounts. Solid holds, dashed reaches but another takes it.${left ? ` ${left} smaller populations are not drawn.` : ""}`;
  const height = base + ROW + 50;
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${height}" width="${WIDTH}" height="${height}" font-family="sans-serif" font-size="13" fill="${PAPER.ink}"><defs>${defs.join("")}</defs><rect width="100%" height="100%" fill="${PAPER.page}"/><path d="M${LABELS} ${HEAD - 3}H${WIDTH}" stroke="${PAPER.ink}" stroke-width="2"/>${out.join("")}<text x="0" y="${height - 8}" font-size="11" fill="${PAPER.soft}">${text(foot)}</text></svg>`;
}

/** Hand the drawing to the browser as a file. */
export const saveSection = (strata: Schemas["Strata"]) =>
  saveFile(sectionSvg(strata), "image/svg+xml", `${strata.domain.dns_name}-strata.svg`);
