import { lookOf } from "../shared/look";

/** A policy's hue and texture; null is bedrock, the domain policy. */
export function Swatch({ mark, size = 14 }: { mark: number | null; size?: number }) {
  return (
    <span
      aria-hidden
      className="inline-block shrink-0 rounded-[3px] align-[-2px]"
      style={{ width: size, height: size, backgroundImage: lookOf(mark).solid }}
    />
  );
}

/** A policy's name with its swatch, wherever one is mentioned. */
export function PolicyTag({ mark, name }: { mark: number | null; name: string }) {
  return (
    <span className="inline-flex min-w-0 items-center gap-1.5">
      <Swatch mark={mark} size={12} />
      <span className="truncate" style={{ color: lookOf(mark).ink }}>
        {name}
      </span>
    </span>
  );
}
