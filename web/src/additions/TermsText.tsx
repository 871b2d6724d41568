import { TextArea } from "../kit/inputs";
import { plural } from "../shared/span";

interface Props {
  /** The terms, one a line; null where they are too many to be typed on. */
  text: string | null;
  count: number;
  /** The name of a file that replaces the terms. */
  file: string;
  first: string[];
  onChange: (text: string) => void;
}

/** The terms of a list: a text to be typed on, or the first of many. */
export function TermsText({ text, count, file, first, onChange }: Props) {
  return (
    <>
      {text !== null ? (
        <label className="block">
          <span className="text-soft">Terms, one a line</span>
          <TextArea
            className="h-28 resize-y font-mono text-sm"
            spellCheck={false}
            value={text}
            onChange={(event) => onChange(event.target.value)}
          />
        </label>
      ) : (
        <p className="text-soft">
          {file ? `${file}: ` : ""}
          {plural(count, "term")}, of which the first are {first.slice(0, 8).join(", ")} … A list
          this long is replaced as a file.
        </p>
      )}
      <p className="text-xs text-soft">
        {text !== null && `${plural(count, "term")}. `}They are found however they are written: in
        capitals, with accents, with 0 for o or $ for s.
      </p>
    </>
  );
}
