import { expect, test } from "vitest";
import { inTurn, latest, moved } from "../src/api/moves";

test("one's own writes make a version one has seen the latest; anybody else's do not", () => {
  expect(latest("a", 3)).toBe(3);
  moved("a", 3, 4);
  moved("a", 4, 5);
  expect([latest("a", 3), latest("a", 4), latest("a", 5)]).toEqual([5, 5, 5]);
  // Somebody else made 7 of 5: what one has seen before leads nowhere, what one sees now does.
  expect(latest("a", 7)).toBe(7);
  moved("a", 7, 8);
  expect([latest("a", 7), latest("a", 3)]).toEqual([8, 3]);
  expect(latest("b", 3)).toBe(3);
});

test("a write for a version that was seen long ago goes on from where one is", () => {
  moved("c", 1, 2);
  moved("c", 2, 3);
  moved("c", 1, 4);
  expect([latest("c", 1), latest("c", 2)]).toEqual([4, 4]);
});

test("writes in one place go out in turn, also after one that failed; other places do not wait", async () => {
  const begun: string[] = [];
  let letGo: (() => void) | undefined;
  const first = inTurn("sky", () => {
    begun.push("first");
    return new Promise<string>((_, reject) => (letGo = () => reject(new Error("refused"))));
  });
  const second = inTurn("sky", () => {
    begun.push("second");
    return Promise.resolve("done");
  });
  await inTurn("sea", () => Promise.resolve(begun.push("elsewhere")));
  expect(begun).toEqual(["first", "elsewhere"]);
  letGo?.();
  await expect(first).rejects.toThrow("refused");
  await expect(second).resolves.toBe("done");
  expect(begun).toEqual(["first", "elsewhere", "second"]);
});
