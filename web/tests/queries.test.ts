import { QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";
import { Queries } from "../src/api/queries";

/** Something on the server, asked for, where each answer is given when the test gives it. */
function asked(first: string) {
  const waiting: (() => void)[] = [];
  const server = { holds: first };
  const client = new Queries();
  const observer = new QueryObserver(client, {
    queryKey: ["a"],
    queryFn: () => {
      const seen = server.holds;
      return new Promise<string>((resolve) => {
        waiting.push(() => {
          resolve(seen);
        });
      });
    },
  });
  const seen: (string | undefined)[] = [];
  observer.subscribe(({ data }) => seen.push(data));
  return { client, server, waiting, observer, seen };
}

const settled = () => new Promise((resolve) => setTimeout(resolve));

for (const filters of [undefined, { queryKey: ["a"] }, { predicate: () => true }]) {
  test(`an answer from before a write is not kept (${JSON.stringify(filters)})`, async () => {
    const { client, server, waiting, observer, seen } = asked("before");
    server.holds = "after";
    const invalidated = client.invalidateQueries(filters);
    await settled();
    expect(waiting).toHaveLength(2);
    waiting.forEach((answer) => {
      answer();
    });
    await invalidated;
    expect(observer.getCurrentResult().data).toBe("after");
    expect(seen).not.toContain("before");
    observer.destroy();
  });
}

test("what is not invalidated goes on", async () => {
  const { client, waiting, observer } = asked("there");
  await client.invalidateQueries({ queryKey: ["b"] });
  expect(waiting).toHaveLength(1);
  waiting[0]?.();
  await settled();
  expect(observer.getCurrentResult().data).toBe("there");
  observer.destroy();
});

test("whoever waits for an answer that is asked for anew gets that one", async () => {
  const { client, server, waiting, observer } = asked("before");
  const options = { ...observer.options, queryKey: ["a"], staleTime: Infinity };
  const found = client.fetchQuery(options as Parameters<typeof client.fetchQuery>[0]);
  server.holds = "after";
  const invalidated = client.invalidateQueries();
  await settled();
  waiting.forEach((answer) => {
    answer();
  });
  await invalidated;
  expect(await found).toBe("after");
  observer.destroy();
});
