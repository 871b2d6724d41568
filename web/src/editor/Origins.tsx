import type { Schemas } from "../api/client";

/** Setting by setting: what the domain policy is, which source says so, and which ones are ignored and why. */
export function Origins({ origins, onOpen }: { origins: Schemas["OriginInfo"][]; onOpen: (gpo: string) => void }) {
  return (
    <dl>
      {origins.map((origin) => (
        <div key={origin.key} className="border-b border-line/60 py-1">
          <div className="flex items-baseline justify-between gap-2">
            <dt>{origin.label}</dt>
            <dd className="font-mono">{origin.said || <span className="text-soft">not said</span>}</dd>
          </div>
          {origin.source && (
            <dd className="text-xs text-soft">
              from{" "}
              <button type="button" className="underline" onClick={() => onOpen(origin.gpo)}>
                {origin.source}
              </button>
            </dd>
          )}
          {origin.ignored.map((i) => (
            <dd key={i.source} className="text-xs text-soft">
              ✕ {i.source} says {i.said}: ignored, {i.why}
            </dd>
          ))}
          {origin.warning && <dd className="text-xs text-warn">△ {origin.warning}</dd>}
        </div>
      ))}
    </dl>
  );
}
