import type { Schemas } from "../api/client";
import { momentText } from "../shared/moments";
import { awayText } from "../shared/span";
import { PolicyTag } from "../kit/Swatch";
import { containerText } from "./filters";

type Row = Schemas["AccountRow"];

/** How the policy comes to the account, by the way that the policy itself takes. */
function why(row: Row): string {
  const way = {
    account: "linked to the account",
    group: `by ${row.through}`,
    domain: "no other reaches it",
    exempt: "exempt from others",
  }[row.source];
  return row.tie ? `${way}, at a tie` : way;
}

/** One account in one column. */
export function AccountCell({ column, row }: { column: string; row: Row }) {
  switch (column) {
    case "display_name":
      return <Text text={row.display_name} soft />;
    case "policy":
      return (
        <span role="cell" className="flex min-w-0 items-center gap-1.5" title={row.policy_name}>
          <PolicyTag mark={row.mark} name={row.policy_name} />
        </span>
      );
    case "why":
      return row.was ? (
        <Text text={`was ${row.was}`} tone="text-warn" />
      ) : (
        <Text text={why(row)} soft />
      );
    case "expires":
      return <Expiry row={row} />;
    case "set":
      return <Text text={row.set_at ? awayText(row.set_at) : "–"} title={momentText(row.set_at)} />;
    case "bad_tries":
      return <Text text={row.bad_tries ? String(row.bad_tries) : "–"} />;
    case "state":
      return (
        <span
          role="cell"
          className="truncate text-xs"
          title={[row.locked && "Locked", ...row.flags].filter(Boolean).join(", ")}
        >
          {row.locked && <strong className="text-fail">Locked </strong>}
          <span className="text-soft">{row.flags.join(", ")}</span>
        </span>
      );
    case "container":
      return <Text text={containerText(row.container)} title={row.container} soft />;
    default:
      return <Text text={row.name} />;
  }
}

function Text({
  text,
  title = text,
  soft,
  tone = "",
}: {
  text: string;
  title?: string;
  soft?: boolean;
  tone?: string;
}) {
  return (
    <span role="cell" className={`truncate ${soft ? "text-soft" : tone}`} title={title}>
      {text}
    </span>
  );
}

function Expiry({ row }: { row: Row }) {
  const text = {
    never: "never",
    now: row.expires_at ? "expired" : "must change",
    unknown: "?",
    at: row.expires_at ? awayText(row.expires_at) : "–",
  }[row.expiry];
  return (
    <Text
      text={text}
      title={row.expires_at ? momentText(row.expires_at) : text}
      tone={row.expiry === "now" ? "text-fail" : ""}
    />
  );
}
