// How a directory is reached, as the connection is typed.
import type { Connection } from "../api/directories";
import type { Door } from "./Doors";
import { serversOf, serversText } from "./servers";

export interface Typed {
  servers: string;
  security: NonNullable<Connection["security"]>;
  trust: "machine" | "authorities" | "pinned";
  authorities: string;
  pinned: string;
  bind: NonNullable<Connection["bind"]>;
  reader: { name: string; secret: string };
  writes: boolean;
  writer: { name: string; secret: string };
  publishes: boolean;
  every: string;
  doors: Door[];
  stage: string;
  ownPage: boolean;
  reason: string;
}

export const START: Typed = {
  servers: "",
  security: "ldaps",
  trust: "machine",
  authorities: "",
  pinned: "",
  bind: "simple",
  reader: { name: "", secret: "" },
  writes: false,
  writer: { name: "", secret: "" },
  publishes: true,
  every: "",
  doors: [],
  stage: "",
  ownPage: false,
  reason: "",
};

export const typedOf = (held: Connection): Typed => ({
  servers: serversText(held.servers),
  security: held.security ?? "ldaps",
  trust: held.pinned ? "pinned" : held.authorities ? "authorities" : "machine",
  authorities: held.authorities ?? "",
  pinned: held.pinned ?? "",
  bind: held.bind ?? "simple",
  reader: { name: held.reader?.name ?? "", secret: held.reader?.secret ?? "" },
  writes: Boolean(held.writer),
  writer: { name: held.writer?.name ?? "", secret: held.writer?.secret ?? "" },
  publishes: held.publishes ?? true,
  every: held.every ? String(held.every) : "",
  doors: held.doors ?? [],
  stage: held.stage ?? "",
  ownPage: held.own_page ?? false,
  reason: "",
});

export const connectionOf = (typed: Typed): Connection => ({
  servers: serversOf(typed.servers),
  security: typed.security,
  authorities: typed.trust === "authorities" ? typed.authorities : "",
  pinned: typed.trust === "pinned" ? typed.pinned : "",
  bind: typed.bind,
  reader: typed.reader,
  writer: typed.writes ? typed.writer : null,
  publishes: typed.publishes,
  every: typed.every.trim() ? Number(typed.every) : null,
  doors: typed.doors,
  stage: typed.writes ? typed.stage.trim() : "",
  own_page: typed.ownPage,
});
