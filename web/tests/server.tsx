// A server at the end of the network, which answers when a test lets the server, and what draws a
// component before the server.
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { BrowserRouter } from "react-router";
import { afterEach, beforeEach, expect, vi } from "vitest";
import { keepFor } from "../src/shared/kept";

/** The keyboard and the pointer of ann. Each test begins with no typed work. */
export let user: ReturnType<typeof userEvent.setup>;

beforeEach(() => {
  user = userEvent.setup();
  sessionStorage.clear();
  keepFor("");
  keepFor("ann");
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

export interface Call {
  method: string;
  url: URL;
  body: unknown;
  answer: (body: unknown, status?: number) => void;
}

/**
 * Every request that was sent, in order. What is `known` of an address with this end is answered by
 * itself; nothing else is.
 */
export function listen(known: Record<string, unknown> = {}) {
  const calls: Call[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const text = await request.text();
    const { pathname } = new URL(request.url);
    const end = Object.keys(known).find((one) => pathname.endsWith(one));
    if (request.method === "GET" && end !== undefined) return answerOf(request, known[end]);
    return new Promise<Response>((resolve, reject) => {
      request.signal.addEventListener("abort", () => reject(new DOMException("", "AbortError")));
      calls.push({
        method: request.method,
        url: new URL(request.url),
        body: isJson(request) ? JSON.parse(text) : text,
        answer: (body, status = 200) => resolve(answerOf(request, body, status)),
      });
    });
  });
  return calls;
}

const isJson = ({ headers }: Request) => headers.get("Content-Type")?.includes("json") ?? false;

const answerOf = (request: Request, body: unknown, status = 200): Response =>
  Object.defineProperty(Response.json(body, { status }), "url", { value: request.url });

/** The request number `count` of a method to an address with this end, once the request is sent. */
export async function sentTo(calls: Call[], method: string, end: string, count = 1): Promise<Call> {
  const sent = () =>
    calls.filter((one) => one.method === method && one.url.pathname.endsWith(end))[count - 1];
  await waitFor(() => expect(sent(), `${method} …${end}, ${count}`).toBeDefined());
  return sent() as Call;
}

/** Draw a component as a screen does, with a client of its own. */
export function draw(component: ReactNode) {
  window.history.replaceState(null, "", "/");
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <div id="details">{component}</div>
      </BrowserRouter>
    </QueryClientProvider>,
  );
}
