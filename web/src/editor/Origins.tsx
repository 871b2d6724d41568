import type { Schemas } from "../api/client";

/**
 * Setting by setting: what the domain policy is, which source says so, and which ones are ignored
 * and why.
 */
export function Origins({
  origins,
  onOpen,
}: {
  origins: Schemas["OriginInfo"][];
  onOpen: (gpo: string) => void;
}) {
  return (
    <ul aria-label="Settings and their sources">
      {origins.map((origin) => (
        <li key={origin.key} className="border-b border-line/60 py-1">
          <p className="flex items-baseline justify-between gap-2">
            <span>{origin.label}</span>
            <span className="font-mono">
              {origin.said || <span className="text-soft">not said</span>}
            </span>
          </p>
          {origin.source && (
            <p className="text-xs text-soft">
              from{" "}
              <button type="button" className="underline" onClick={() => onOpen(origin.gpo)}>
                {origin.source}
              </button>
            </p>
          )}
          {origin.ignored.map((i) => (
            <p key={i.source} className="text-xs text-soft">
              ✕ {i.source} says {i.said}: ignored, {i.why}
            </p>
          ))}
          {origin.warning && <p className="text-xs text-warn">△ {origin.warning}</p>}
        </li>
      ))}
    </ul>
  );
}
