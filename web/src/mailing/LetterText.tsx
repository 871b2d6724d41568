/** A letter as whoever gets it reads it. */
export function LetterText({
  to,
  subject,
  language,
  lines,
}: {
  to: string;
  subject: string;
  language: string;
  lines: string[];
}) {
  return (
    <article
      lang={language}
      aria-label={subject}
      className="rounded-md border border-line bg-white p-3"
    >
      <p className="text-xs break-words text-soft">{to || "no address"}</p>
      <h4 className="mb-1.5 font-semibold break-words">{subject}</h4>
      <div className="text-sm break-words whitespace-pre-wrap">{lines.join("\n")}</div>
    </article>
  );
}
