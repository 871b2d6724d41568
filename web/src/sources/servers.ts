// Servers as they are typed: one a line, tried in this order.
import type { Connection } from "../api/directories";

type Server = Connection["servers"][number];

/** `dc1.example.com`, `dc1.example.com:636`, or with the address that the name stands for. */
export function serversOf(text: string): Server[] {
  return text
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const [named = "", address = ""] = line.split(/\s+/);
      const [, host = named, port] = /^(.*?)(?::(\d{1,5}))?$/.exec(named) ?? [];
      return { host, port: port ? Number(port) : null, address };
    });
}

export const serversText = (servers: readonly Server[]) =>
  servers
    .map(({ host, port, address }) =>
      [port ? `${host}:${port}` : host, address].filter(Boolean).join(" "),
    )
    .join("\n");
