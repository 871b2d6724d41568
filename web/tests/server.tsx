// A server at the end of the network, which answers when a test lets the server, and what draws a
// component before the server.
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { vi } from "vitest";

export interface Call {
  method: string;
  url: URL;
  body: unknown;
  answer: (body: unknown, status?: number) => void;
}

/** Every request that was sent, in order; none is answered by itself. */
export function listen() {
  const calls: Call[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const text = await request.text();
    return new Promise<Response>((resolve, reject) => {
      request.signal.addEventListener("abort", () => reject(new DOMException("", "AbortError")));
      calls.push({
        method: request.method,
        url: new URL(request.url),
        body: text ? JSON.parse(text) : null,
        answer: (body, status = 200) => {
          const response = Response.json(body, { status });
          resolve(Object.defineProperty(response, "url", { value: request.url }));
        },
      });
    });
  });
  return calls;
}

/** Draw a component as a screen does, with a client of its own. */
export function draw(component: ReactNode) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(
    <QueryClientProvider client={client}>
      <MemoryRouter>
        <div id="details">{component}</div>
      </MemoryRouter>
    </QueryClientProvider>,
  );
}
