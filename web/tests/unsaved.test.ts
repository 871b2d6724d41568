import { beforeEach, expect, test } from "vitest";
import { Unsaved, type Work } from "../src/shared/unsaved";

let stored: Map<string, string>;
const storage = {
  getItem: (key: string) => stored.get(key) ?? null,
  setItem: (key: string, value: string) => void stored.set(key, value),
};

const LIVE = "sky.example";
const DRAFT = "sky.example~1";

const work = (place: string, about = "policy 1"): Work => ({
  place,
  about,
  label: "Night",
  to: `/${encodeURIComponent(place)}/strata?policy=1`,
});

function opened(user = "ann") {
  const unsaved = new Unsaved(() => storage);
  unsaved.keepFor(user);
  return unsaved;
}

beforeEach(() => {
  stored = new Map();
});

test("work outlives a reload, for the user who typed it alone", () => {
  opened().put({ ...work(LIVE), value: 16 });
  expect(opened().valueOf(LIVE, "policy 1")).toBe(16);
  const other = opened("ben");
  expect(other.list()).toEqual([]);
  other.keepFor("ann");
  expect(other.list()).toHaveLength(1);
});

test("work of nobody, in a full storage or over broken text is kept while the page is open", () => {
  const nobody = new Unsaved(() => storage);
  nobody.put({ ...work(LIVE), value: 16 });
  expect([nobody.valueOf(LIVE, "policy 1"), stored.size]).toEqual([16, 0]);
  stored.set("unsaved:ann", "{");
  expect(opened().list()).toEqual([]);
  const full = new Unsaved(() => ({
    ...storage,
    setItem: () => {
      throw new DOMException("full", "QuotaExceededError");
    },
  }));
  full.keepFor("ann");
  full.put({ ...work(LIVE), value: 16 });
  expect(full.valueOf(LIVE, "policy 1")).toBe(16);
});

test("the list is the same array until something changes, and each change is told once", () => {
  const unsaved = opened();
  let told = 0;
  const stop = unsaved.subscribe(() => (told += 1));
  const before = unsaved.list();
  unsaved.forget(LIVE, "policy 1");
  unsaved.carry(() => true, LIVE, DRAFT);
  expect([unsaved.list(), told]).toEqual([before, 0]);
  expect(unsaved.list()).toBe(before);
  unsaved.put({ ...work(LIVE), value: 16 });
  expect([unsaved.list().length, told]).toEqual([1, 1]);
  stop();
  unsaved.forget(LIVE, "policy 1");
  expect(told).toBe(1);
});

test("what was sent is settled; what was typed on meanwhile goes along to the draft", () => {
  const unsaved = opened();
  const sent = { length: 16 };
  unsaved.put({ ...work(LIVE), value: sent });
  expect(unsaved.settle(work(LIVE), sent, DRAFT)).toBe(true);
  expect(unsaved.list()).toEqual([]);
  unsaved.put({ ...work(LIVE), value: { length: 17 } });
  expect(unsaved.settle(work(LIVE), sent, DRAFT)).toBe(false);
  expect(unsaved.list()).toEqual([{ ...work(DRAFT), value: { length: 17 } }]);
  // Saved in the place where it was typed: it stays there.
  expect(unsaved.settle(work(DRAFT), sent, DRAFT)).toBe(false);
  expect(unsaved.valueOf(DRAFT, "policy 1")).toEqual({ length: 17 });
});

test("only the work that is wanted is carried, and takes the place of what is there", () => {
  const unsaved = opened();
  unsaved.put({ ...work(DRAFT), value: "older" });
  unsaved.put({ ...work(LIVE), value: "newer" });
  unsaved.put({ ...work(LIVE, "policy 2"), value: "stays" });
  unsaved.carry((about) => about === "policy 1", LIVE, DRAFT);
  expect(unsaved.valueOf(DRAFT, "policy 1")).toBe("newer");
  expect(unsaved.valueOf(LIVE, "policy 1")).toBeUndefined();
  expect(unsaved.valueOf(LIVE, "policy 2")).toBe("stays");
  unsaved.carry(() => true, LIVE, LIVE);
  expect(unsaved.list()).toHaveLength(2);
});

test("a value is altered only while there is one", () => {
  const unsaved = opened();
  unsaved.alter<number>(LIVE, "policy 1", (value) => value + 1);
  expect(unsaved.list()).toEqual([]);
  unsaved.put({ ...work(LIVE), value: 16 });
  unsaved.alter<number>(LIVE, "policy 1", (value) => value + 1);
  expect(unsaved.valueOf(LIVE, "policy 1")).toBe(17);
});
