import type { Schemas } from "../api/client";
import { plural } from "../shared/span";
import type { Hidden } from "./columns";
import { HiddenMark } from "./HiddenMark";
import { rowClass } from "./rowClass";

interface Props {
  layer: Schemas["Layer"];
  row: number;
  place: number;
  hidden: Hidden;
  selected: boolean;
  reachable: boolean;
}

/** The accounts of a policy in populations without a column, in one cell, so that no row looks empty
 * that is not. */
export function HiddenCell({ layer, row, place, hidden, selected, reachable }: Props) {
  return (
    <td className={`border-r p-0.5 ${rowClass(selected)}`}>
      <div
        data-at={`${row}:${place}`}
        tabIndex={reachable ? 0 : -1}
        role="button"
        aria-label={`${sentence(layer.name, hidden)} in populations without a column.`}
        className="h-[29px]"
      >
        <HiddenMark mark={layer.mark} {...hidden} />
      </div>
    </td>
  );
}

function sentence(name: string, { governed, reached }: Hidden) {
  const overridden = plural(reached - governed, "account");
  if (reached === 0) return `${name} reaches no account`;
  if (governed === 0) return `${name} is overridden for ${overridden}`;
  const applies = `${name} applies to ${plural(governed, "account")}`;
  return reached === governed ? applies : `${applies} and is overridden for ${overridden}`;
}
