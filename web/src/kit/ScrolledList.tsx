/** Sentences, a line each, that scroll where there are many. */
export function ScrolledList({ label, of }: { label: string; of: string[] }) {
  if (of.length === 0) return null;
  return (
    <ul aria-label={label} tabIndex={0} className="max-h-48 list-disc overflow-auto pl-5">
      {of.map((one) => (
        <li key={one} className="break-words">
          {one}
        </li>
      ))}
    </ul>
  );
}
