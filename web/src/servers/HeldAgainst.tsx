import type { Schemas } from "../api/client";
import { useMay } from "../api/domains";
import type { useServerSetWrites } from "../api/servers";
import { Refusal } from "../kit/Alert";
import { Button } from "../kit/Button";
import { Select } from "../kit/inputs";
import { dayText } from "../shared/moments";

interface Props {
  domain: string;
  matrix: Schemas["ServerMatrix"];
  hold: ReturnType<typeof useServerSetWrites>["hold"];
}

const MOST = "most";
const AGREED = "agreed";

/** What the servers are held against: what most say, one of them, or what was agreed on. */
export function HeldAgainst({ domain, matrix, hold }: Props) {
  const may = useMay(domain)("draft");
  const { held, seen, servers } = matrix;
  const value = held.way === "server" ? `server ${held.server}` : held.way;
  const tied = matrix.settings.some((one) => one.tied);
  const choose = (chosen: string) => {
    const server = chosen.startsWith("server ") ? chosen.slice("server ".length) : "";
    hold.mutate({ way: server ? "server" : MOST, server, seen: "" });
  };
  return (
    <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
      <label className="flex min-w-0 items-center gap-2">
        Held against
        <Select
          value={value}
          disabled={!may || hold.isPending}
          className="max-w-64"
          onChange={(event) => choose(event.target.value)}
        >
          <option value={MOST}>what most of them say</option>
          {held.way === AGREED && <option value={AGREED}>what was agreed on</option>}
          {servers
            .filter((one) => one.state !== "not read")
            .map((one) => (
              <option key={one.name} value={`server ${one.name}`}>
                what {one.name} says
              </option>
            ))}
        </Select>
      </label>
      {held.way === AGREED && held.at && (
        <span className="text-soft">
          by {held.by}, {dayText(held.at)}
        </span>
      )}
      {held.way !== AGREED && may && servers.length > 0 && !tied && (
        <Button
          size="small"
          disabled={hold.isPending}
          onClick={() => hold.mutate({ way: AGREED, server: "", seen })}
        >
          Agree on it
        </Button>
      )}
      {held.missing && (
        <span className="text-warn">
          △ {held.missing} was chosen and cannot be read now: what most say counts meanwhile.
        </span>
      )}
      <Refusal error={hold.error} />
    </div>
  );
}
