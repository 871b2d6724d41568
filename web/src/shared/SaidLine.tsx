import type { Schemas } from "../api/client";

/** What is changed, in words, object by object. */
export function SaidLine({ said }: { said: Schemas["SaidInfo"][] }) {
  return (
    <>
      {said.map((one, number) => (
        <span key={number} className="block">
          {one.subject !== said[number - 1]?.subject && (
            <b className="block font-medium">{one.subject}</b>
          )}
          {one.text}
          {(one.before || one.after) && (
            <span className="text-soft">
              {" "}
              {one.before && `${one.before} → `}
              {one.after || "nothing"}
            </span>
          )}
        </span>
      ))}
    </>
  );
}
