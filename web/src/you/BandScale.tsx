import type { Schemas } from "../api/client";

/** What length buys: from so many characters on a password lasts so long. */
export function BandScale({
  bands,
  reached,
}: {
  bands: Schemas["OwnBand"][];
  reached: number | null;
}) {
  return (
    <section aria-label="What length buys" className="mt-4">
      <h2 className="mb-1 text-[17px]">The longer, the longer it lasts</h2>
      <ol className="flex flex-wrap gap-1">
        {bands.map((band, number) => (
          <li
            key={band.length}
            aria-current={number === reached ? "step" : undefined}
            className={`min-w-24 flex-1 border-t-4 px-1.5 py-1 ${
              reached !== null && number <= reached ? "border-pass" : "border-line"
            } ${number === reached ? "bg-white font-semibold" : ""}`}
          >
            <span className="block text-sm text-soft">from {band.length} characters</span>
            {number === reached && <span aria-hidden>✓ </span>}
            {band.lasts}
          </li>
        ))}
      </ol>
    </section>
  );
}
