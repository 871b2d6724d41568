/** Characters that are shown to be typed on. */
const MOST_TYPED = 100_000;

/** A file of terms that is too long to be typed on. */
export interface Chosen {
  name: string;
  blob: Blob;
  count: number;
  first: string[];
}

/** A file that is too long to be typed on; null for a shorter one. */
async function read(file: File): Promise<Chosen | null> {
  if (file.size <= MOST_TYPED) return null;
  const text = await file.text();
  let count = 0;
  for (let at = 0; at < text.length;) {
    const end = text.indexOf("\n", at) < 0 ? text.length : text.indexOf("\n", at);
    if (text.slice(at, end).trim()) count += 1;
    at = end + 1;
  }
  return { name: file.name, blob: file, count, first: text.slice(0, 2000).split(/\r?\n/) };
}

interface Props {
  onText: (text: string) => void;
  onLong: (file: Chosen) => void;
}

/** Takes terms from a file: a short one is typed on, a long one goes as it is. */
export function TermsFile({ onText, onLong }: Props) {
  return (
    <label className="inline-flex h-6 cursor-pointer items-center text-xs underline focus-within:outline-2 focus-within:outline-focus">
      From a file …
      <input
        type="file"
        accept=".txt,text/plain"
        className="sr-only"
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          event.target.value = "";
          if (!chosen) return;
          void read(chosen).then((found) => (found ? onLong(found) : chosen.text().then(onText)));
        }}
      />
    </label>
  );
}
