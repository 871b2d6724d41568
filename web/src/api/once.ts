// A double click is one write: what is under way already is not sent once more.

const underWay = new Map<string, Promise<Response>>();

/** Send a write, or share the answer to the same write if that is under way. */
export async function once(
  request: Request,
  send: (request: Request) => Promise<Response>,
): Promise<Response> {
  // A file is too large to be compared.
  if (request.method === "GET" || request.headers.get("Content-Type")?.includes("octet-stream"))
    return send(request);
  const key = `${request.method} ${request.url} ${await request.clone().text()}`;
  const other = underWay.get(key);
  if (other)
    try {
      return (await other).clone();
    } catch (error) {
      // The other one was given up, which does not concern this one.
      if (!isAbort(error) || request.signal.aborted) throw error;
    }
  const sent = send(request);
  underWay.set(key, sent);
  try {
    return (await sent).clone();
  } finally {
    if (underWay.get(key) === sent) underWay.delete(key);
  }
}

const isAbort = (error: unknown) => error instanceof DOMException && error.name === "AbortError";
