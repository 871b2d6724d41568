import { expect, test, vi } from "vitest";
import { once } from "../src/api/once";

const post = (body: string, signal?: AbortSignal) =>
  new Request("http://here/api/unlockings", { method: "POST", body, signal });

/** A server that answers when it is let go, and counts what it was asked. */
function slow() {
  const waiting: (() => void)[] = [];
  let count = 0;
  return {
    count: () => count,
    letGo: () => waiting.splice(0).forEach((go) => go()),
    send: (request: Request) =>
      new Promise<Response>((resolve, reject) => {
        count += 1;
        const answer = `answer ${count}`;
        waiting.push(() => resolve(new Response(answer)));
        request.signal.addEventListener("abort", () =>
          reject(new DOMException("given up", "AbortError")),
        );
      }),
  };
}

const soon = () => new Promise((resolve) => setTimeout(resolve));

test("the same write is sent once while it is under way, and answered twice", async () => {
  const server = slow();
  const both = [once(post("a"), server.send), once(post("a"), server.send)];
  await soon();
  server.letGo();
  expect(await Promise.all(both.map(async (one) => (await one).text()))).toEqual([
    "answer 1",
    "answer 1",
  ]);
  const later = once(post("a"), server.send);
  await soon();
  server.letGo();
  expect(await (await later).text()).toBe("answer 2");
});

test("other writes are sent, and reading is", async () => {
  const server = slow();
  const read = () => new Request("http://here/api/unlockings");
  const sent = [post("a"), post("b"), read(), read()].map((one) => once(one, server.send));
  await vi.waitFor(() => expect(server.count()).toBe(4));
  server.letGo();
  await Promise.all(sent);
});

test("a write that was given up does not take the other one with it", async () => {
  const server = slow();
  const stop = new AbortController();
  const first = expect(once(post("a", stop.signal), server.send)).rejects.toThrow("given up");
  await vi.waitFor(() => expect(server.count()).toBe(1));
  const second = once(post("a"), server.send);
  await soon();
  stop.abort();
  await first;
  await vi.waitFor(() => expect(server.count()).toBe(2));
  server.letGo();
  expect(await (await second).text()).toBe("answer 2");
});

test("what may have been done before the line broke is sent with the same key", async () => {
  const keys: (string | null)[] = [];
  const broken = (request: Request) => {
    keys.push(request.headers.get("Idempotency-Key"));
    return keys.length === 1
      ? Promise.reject(new Error("no line"))
      : Promise.resolve(new Response());
  };
  await expect(once(post("c"), broken)).rejects.toThrow("no line");
  await once(post("c"), broken);
  await once(post("c"), broken);
  const [first, again, later] = keys;
  expect(first).toMatch(/^[0-9a-f]{32}$/);
  expect(again).toBe(first);
  expect(later).not.toBe(first);
});
