import type { Corpus } from "../api/exposure";
import { PartHead } from "../kit/PartHead";
import { sizeText } from "./words";

/** The lists of exposed passwords that are at hand. */
export function Corpora({ corpora }: { corpora: Corpus[] }) {
  return (
    <section aria-label="Lists of exposed passwords">
      <PartHead level={2}>Lists of exposed passwords</PartHead>
      {corpora.length === 0 && (
        <p className="py-1 text-soft">
          None yet. Compile one with{" "}
          <span className="font-mono text-xs">hornfels corpus build</span> into the folder for
          corpora.
        </p>
      )}
      <ul>
        {corpora.map((one) => (
          <li key={one.name} className="border-b border-line/60 py-1">
            <p className="flex items-baseline gap-2">
              <b className="min-w-0 truncate font-medium" title={one.name}>
                {one.name}
              </b>
              {one.kind && (
                <span className="ml-auto shrink-0 tabular-nums">
                  {one.entries.toLocaleString("en")}
                </span>
              )}
            </p>
            {one.kind && (
              <p className="text-xs text-soft">
                {kindWords(one)} · seen {one.seen.toLocaleString("en")} times ·{" "}
                {sizeText(one.bytes)}
                {one.files > 1 && ` in ${one.files} files`}
              </p>
            )}
            {one.problem && <p className="text-xs break-words text-fail">✕ {one.problem}</p>}
          </li>
        ))}
      </ul>
    </section>
  );
}

function kindWords(one: Corpus) {
  if (one.folded) return "look-alikes, for candidates only";
  if (one.kind === "sha1") return "SHA-1, for candidates only";
  return "for candidates and accounts";
}
