import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";
import type { Schemas } from "../api/client";
import { usePrinting } from "../shared/usePrinting";

type Server = Schemas["ServerInfo"];

const ROW = 24;
const SIDE = "sticky left-0 z-10 border-b border-line/60 pr-3 text-left font-normal";
const LEAST = "min-w-[88px]";

interface Props {
  matrix: Schemas["ServerMatrix"];
  chosen: string;
  onChoose: (name: string) => void;
}

/** Servers against settings: those that differ row by row, then all that agree by their names. */
export function ServerMatrix({ matrix, chosen, onChoose }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const odd = matrix.servers.filter((one) => one.state !== "agrees");
  const alike = matrix.servers.filter((one) => one.state === "agrees");
  const printing = usePrinting();
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer keeps its own state on purpose
  const virtual = useVirtualizer({
    count: odd.length,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: printing ? odd.length : 20,
  });
  const items = virtual.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  const read = matrix.set.agree + matrix.set.differ;
  return (
    <div
      ref={frame}
      tabIndex={0}
      role="group"
      aria-label="Servers and settings"
      className="min-h-0 flex-1 overflow-auto outline-offset-[-2px]"
    >
      <table aria-rowcount={odd.length + 2} className="border-separate border-spacing-0 text-sm">
        <caption className="sr-only">
          {matrix.set.name}: what each server says of each setting where it is not what is wanted
        </caption>
        <thead className="sticky top-0 z-20">
          <tr>
            <th scope="col" className={`${SIDE} min-w-[100px] bg-paper align-bottom text-soft`}>
              Server
            </th>
            {matrix.settings.map((one) => (
              <th
                key={one.key}
                scope="col"
                className={`${LEAST} border-b border-line/60 bg-paper px-1.5 pb-0.5 text-left align-bottom font-medium leading-4`}
              >
                {one.label}
              </th>
            ))}
          </tr>
          <tr>
            <th scope="row" className={`${SIDE} border-line bg-hover`}>
              Wanted of all
            </th>
            {matrix.settings.map((one) => (
              <td key={one.key} className="border-b border-line bg-hover px-1.5 align-top">
                {one.tied ? (
                  <span className="text-warn">△ as many say otherwise</span>
                ) : (
                  <span className="font-mono text-xs whitespace-nowrap">{one.wanted}</span>
                )}
                <span className={`block text-xs ${one.like < read ? "text-fail" : "text-soft"}`}>
                  {one.like < read ? "✕" : "✓"} {one.like} of {read}
                </span>
              </td>
            ))}
          </tr>
        </thead>
        <tbody>
          {above > 0 && <tr aria-hidden style={{ height: above }} />}
          {items.map((item) => {
            const server = odd[item.index];
            return (
              server && (
                <Row
                  key={server.name}
                  server={server}
                  number={item.index + 3}
                  wide={matrix.settings.length}
                  chosen={server.name === chosen}
                  onChoose={() => onChoose(server.name === chosen ? "" : server.name)}
                />
              )
            );
          })}
          {below > 0 && <tr aria-hidden style={{ height: below }} />}
        </tbody>
      </table>
      {alike.length > 0 && (
        <section aria-label="Those that agree" className="sticky left-0 mt-2 max-w-full">
          <h2 className="text-sm">
            <span className="text-pass">✓</span> {alike.length} agree in everything
          </h2>
          <ul className="flex flex-wrap gap-x-1">
            {alike.map((one) => (
              <li key={one.name} className="min-w-0">
                <button
                  type="button"
                  aria-expanded={one.name === chosen}
                  title={one.name}
                  onClick={() => onChoose(one.name === chosen ? "" : one.name)}
                  className={`max-w-40 truncate rounded px-1.5 py-0.5 font-mono text-xs hover:bg-hover ${one.name === chosen ? "bg-hover font-medium" : ""}`}
                >
                  {one.name}
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

interface RowProps {
  server: Server;
  number: number;
  wide: number;
  chosen: boolean;
  onChoose: () => void;
}

function Row({ server, number, wide, chosen, onChoose }: RowProps) {
  const ground = chosen ? "bg-hover" : "bg-paper";
  return (
    <tr aria-rowindex={number} style={{ height: ROW }}>
      <th scope="row" className={`${SIDE} ${ground}`}>
        <button
          type="button"
          aria-expanded={chosen}
          onClick={onChoose}
          title={server.name}
          className="max-w-48 truncate font-mono text-xs hover:underline"
        >
          {server.name}
        </button>
      </th>
      {server.state === "not read" ? (
        <td
          colSpan={Math.max(wide, 1)}
          title={server.problem}
          className={`${ground} max-w-0 truncate border-b border-line/60 px-1.5 text-warn`}
        >
          ? could not be read: {server.problem}
        </td>
      ) : (
        server.said.map((said, column) => (
          <td
            key={column}
            className={`${ground} border-b border-line/60 px-1.5 whitespace-nowrap ${said === null ? "text-soft" : "text-fail"}`}
          >
            {said === null ? (
              <>
                <span aria-hidden>·</span>
                <span className="sr-only">as wanted</span>
              </>
            ) : (
              <>
                ✕ <span className="font-mono text-xs">{said}</span>
              </>
            )}
          </td>
        ))
      )}
    </tr>
  );
}
