import { useState } from "react";
import type { Letter } from "../api/mailing";
import { Choices, type Choice } from "../kit/Choices";

type Form = "text" | "page";
const FORMS: Choice<Form>[] = [
  { value: "text", label: "Text" },
  { value: "page", label: "HTML" },
];

/** A letter as whoever gets it reads it: its text, or the page at an address that goes along with it. */
export function LetterText({ to, subject, language, lines, page }: Letter) {
  const [form, setForm] = useState<Form>("text");
  return (
    <article
      lang={language}
      aria-label={subject}
      className="rounded-md border border-line bg-white p-3"
    >
      <div className="float-right ml-2" lang="en">
        <Choices label="Form of the letter" value={form} choices={FORMS} onChange={setForm} />
      </div>
      <p className="text-xs break-words text-soft">{to || "no address"}</p>
      <h4 className="mb-1.5 font-semibold break-words">{subject}</h4>
      {form === "page" ? (
        <iframe
          title={subject}
          src={page}
          sandbox=""
          className="clear-both h-80 w-full rounded-sm border border-line"
        />
      ) : (
        <div className="text-sm break-words whitespace-pre-wrap">{lines.join("\n")}</div>
      )}
    </article>
  );
}
