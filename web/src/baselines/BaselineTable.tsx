import type { Schemas } from "../api/client";
import { dayText } from "../shared/moments";
import { Swatch } from "../kit/Swatch";
import { MARKS, TONES, WORDS } from "./states";

interface Props {
  answer: Schemas["BaselineAnswer"];
  chosen: string;
  onChoose: (key: string) => void;
}

const SIDE = "sticky left-0 z-10";

/** Recommendations as rows against the populations of the section as columns. */
export function BaselineTable({ answer, chosen, onChoose }: Props) {
  const { columns, rows } = answer;
  return (
    <table className="border-separate border-spacing-0 text-sm">
      <caption className="sr-only">
        {answer.baseline.title}: recommendations and the populations that meet them
      </caption>
      <thead>
        <tr>
          <th
            scope="col"
            className={`${SIDE} bg-paper border-b border-line pr-3 pb-1 text-left align-bottom font-normal text-soft`}
          >
            Recommendation
          </th>
          <th
            scope="col"
            className="border-b border-line px-2 pb-1 text-right align-bottom font-normal text-soft"
          >
            accounts not met
          </th>
          {columns.map((column) => (
            <th
              key={column.key}
              scope="col"
              title={`${column.who}: ${column.count.toLocaleString("en")} under ${column.policy_name}`}
              className="w-8 min-w-8 border-b border-line pb-1 align-bottom font-normal"
            >
              <span className="mx-auto flex h-32 rotate-180 items-center gap-1 truncate text-left text-xs whitespace-nowrap [writing-mode:vertical-rl]">
                <Swatch mark={column.mark} size={12} />
                <span className="font-mono text-soft">{column.count.toLocaleString("en")}</span>
                <span className="truncate">{column.who}</span>
              </span>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <Row
            key={row.key}
            row={row}
            columns={columns}
            chosen={row.key === chosen}
            onChoose={() => onChoose(row.key === chosen ? "" : row.key)}
          />
        ))}
      </tbody>
    </table>
  );
}

interface RowProps {
  row: Schemas["BaselineRow"];
  columns: Schemas["BaselineColumn"][];
  chosen: boolean;
  onChoose: () => void;
}

function Row({ row, columns, chosen, onChoose }: RowProps) {
  const ground = chosen ? "bg-hover" : "bg-paper";
  return (
    <tr>
      <th
        scope="row"
        className={`${SIDE} ${ground} w-[340px] min-w-[260px] border-b border-line/60 py-1 pr-3 text-left font-normal small:w-[200px] small:min-w-[150px]`}
      >
        <button
          type="button"
          aria-expanded={chosen}
          onClick={onChoose}
          className="flex w-full gap-2 text-left hover:underline"
        >
          <span className={`w-3 shrink-0 text-center ${TONES[row.state]}`}>
            {MARKS[row.state]}
            <span className="sr-only"> {WORDS[row.state]}: </span>
          </span>
          <span className="min-w-0">
            {row.text}
            <span className="block text-xs text-soft">
              for {row.who}
              {row.accepted && <> · accepted until {dayText(`${row.accepted.until}T00:00`)}</>}
              {row.state_live !== null && (
                <>
                  {" "}
                  · <b className="font-medium text-ink">this draft turns it</b>
                </>
              )}
            </span>
          </span>
        </button>
      </th>
      <td className={`${ground} border-b border-line/60 px-2 text-right font-mono`}>
        {row.not_met > 0 ? row.not_met.toLocaleString("en") : <span aria-label="none">–</span>}
      </td>
      {row.cells.map((state, number) => {
        const column = columns[number];
        return (
          <td
            key={column?.key ?? number}
            title={`${column?.who ?? ""}: ${WORDS[state]}`}
            className={`${ground} border-b border-line/60 text-center ${TONES[state]}`}
          >
            <span aria-hidden>{MARKS[state]}</span>
            <span className="sr-only">{WORDS[state]}</span>
          </td>
        );
      })}
    </tr>
  );
}
