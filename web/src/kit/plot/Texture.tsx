import { lookOf } from "../../shared/look";

/** A policy's texture as a pattern of a drawing, from the same tile that the screen uses. */
export function Texture({ id, mark }: { id: string; mark: number | null }) {
  const tile = decodeURIComponent(
    lookOf(mark).solid.slice('url("data:image/svg+xml,'.length, -2),
  ).replace(/^<svg[^>]*>|<\/svg>$/g, "");
  return (
    <pattern
      id={id}
      width="12"
      height="12"
      patternUnits="userSpaceOnUse"
      // Our own tile, of numbers and colours that stand in the code.
      dangerouslySetInnerHTML={{ __html: tile }}
    />
  );
}
