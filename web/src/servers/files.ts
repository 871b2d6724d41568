// Which of the chosen files are servers', and where each lies below the folder of them all.
import type { ServerFile } from "../api/servers";

const EXTENSION = ".inf";

/** The templates among files that were chosen one by one, or with the folder that they lie in. */
export function templatesOf(files: Iterable<File>): ServerFile[] {
  return [...files]
    .filter((file) => file.name.toLowerCase().endsWith(EXTENSION))
    .map((file) => ({
      file,
      path: file.webkitRelativePath.split("/").slice(1).join("/") || file.name,
    }));
}

/** What came of one file: the server that it is of, and what is wrong with it. */
export interface Taken {
  path: string;
  name: string;
  problem: string;
}

/** Servers of which there was more than one file; the one that came last counts. */
export function twice(taken: Taken[]): string[] {
  const names = taken.map((one) => one.name.toLowerCase());
  const found = taken.filter((one, at) => names.indexOf(one.name.toLowerCase()) !== at);
  return [...new Set(found.map((one) => one.name))];
}
