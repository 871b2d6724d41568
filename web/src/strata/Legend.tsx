import { Word } from "../shared/Word";
import { lookOf } from "../shared/look";

/** The signs and the words of the section, in one line. */
export function Legend() {
  const look = lookOf(5);
  const box = "inline-block h-3 w-4 rounded-[2px] align-[-2px]";
  return (
    <ul
      aria-label="Legend"
      className="flex flex-wrap items-center gap-x-3 text-xs whitespace-nowrap text-soft small:hidden"
    >
      <li>
        <span className={box} style={{ backgroundImage: look.solid }} /> holds here
      </li>
      <li>
        <span
          className={`${box} border border-dashed`}
          style={{ backgroundImage: look.ghost, borderColor: look.ink }}
        />{" "}
        reaches, another wins
      </li>
      <li>
        <svg width="12" height="12" className="inline align-[-2px]" aria-hidden>
          <path d="M6 0 11 5 6 10 1 5z" fill={lookOf(6).ink} />
          <path d="M6 6v6" stroke={lookOf(6).ink} strokeWidth="3" />
        </svg>{" "}
        direct link
      </li>
      <li className="unprinted @max-[980px]:hidden">
        <Word of="strata">strata</Word> · <Word of="population">population</Word> ·{" "}
        <Word of="bedrock">bedrock</Word> · <Word of="exempt">exempt</Word>
      </li>
    </ul>
  );
}
