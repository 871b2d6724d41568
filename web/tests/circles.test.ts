import { readdirSync, readFileSync, statSync } from "node:fs";
import { dirname, join, normalize } from "node:path";
import { expect, test } from "vitest";

const SOURCE = join(import.meta.dirname, "..", "src");

const files = readdirSync(SOURCE, { recursive: true, encoding: "utf8" }).filter((name) =>
  /\.tsx?$/.test(name),
);

/** The modules of ours that a module imports, at once or later. */
function importsOf(file: string): string[] {
  const text = readFileSync(join(SOURCE, file), "utf8");
  const named = text.matchAll(/(?:from|import\()\s*"(\.[^"]+)"/g);
  return [...named].flatMap(([, name = ""]) => {
    const path = normalize(join(dirname(file), name));
    return ["", ".ts", ".tsx"].map((end) => path + end).filter((one) => isFile(one));
  });
}

const isFile = (path: string) =>
  statSync(join(SOURCE, path), { throwIfNoEntry: false })?.isFile() ?? false;

/** The first circle that is found from a module, as the way back to its beginning. */
function circleFrom(file: string, way: string[], done: Set<string>): string[] | null {
  if (way.includes(file)) return [...way.slice(way.indexOf(file)), file];
  if (done.has(file)) return null;
  for (const next of importsOf(file)) {
    const found = circleFrom(next, [...way, file], done);
    if (found) return found;
  }
  done.add(file);
  return null;
}

test("no module imports itself by way of others", () => {
  const done = new Set<string>();
  expect(files.length).toBeGreaterThan(100);
  for (const file of files) expect(circleFrom(file, [], done)).toBeNull();
});
