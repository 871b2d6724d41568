// A double click is one write: what is under way already is not sent once more, and what the server
// may have done before the line broke is sent with the same key.

const underWay = new Map<string, Promise<Response>>();
/** Keys of writes that were sent and have no answer. */
const unanswered = new Map<string, string>();

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
  const mark = unanswered.get(key) ?? fresh();
  unanswered.set(key, mark);
  const marked = new Request(request, { headers: new Headers(request.headers) });
  marked.headers.set("Idempotency-Key", mark);
  const sent = send(marked);
  underWay.set(key, sent);
  try {
    const answer = await sent;
    unanswered.delete(key);
    return answer.clone();
  } catch (error) {
    if (isAbort(error)) unanswered.delete(key);
    throw error;
  } finally {
    if (underWay.get(key) === sent) underWay.delete(key);
  }
}

/** A random key; `crypto.randomUUID` is missing where there is no TLS. */
const fresh = () =>
  Array.from(crypto.getRandomValues(new Uint8Array(16)), (one) =>
    one.toString(16).padStart(2, "0"),
  ).join("");

const isAbort = (error: unknown) => error instanceof DOMException && error.name === "AbortError";
