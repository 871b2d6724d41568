// The one place that talks HTTP. Errors carry what the server said, by field where it named one.
import createClient from "openapi-fetch";
import { moved } from "./moves";
import { once } from "./once";
import type { components, paths } from "./schema";
import { askedAgain } from "./session";
import { noticeTrouble, UNREACHED } from "./trouble";

export type Schemas = components["schemas"];

export interface FieldError {
  field: string;
  message: string;
}

export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly fields: FieldError[] = [],
    readonly body: unknown = null,
  ) {
    super(message);
  }
}

function readError(status: number, body: unknown): ApiError {
  const detail = (body as { detail?: unknown; message?: unknown } | null)?.detail;
  if (Array.isArray(detail)) {
    const fields = detail as FieldError[];
    return new ApiError(status, fields.map((f) => f.message).join(" "), fields, body);
  }
  const message =
    typeof detail === "string" ? detail : (body as { message?: string } | null)?.message;
  return new ApiError(status, message ?? `The server answered with status ${status}.`, [], body);
}

const SESSION = "/api/session";
/** Where nobody of Hornfels' own is signed in, but people under the policies. */
const YOURS = "/api/you";

/** A write has moved a draft on: by the place in its address. */
function noteMove({ url, headers }: Response) {
  const [from, to] = (headers.get("Draft-Moved") ?? "").split(" ").map(Number);
  const place = new URL(url).pathname.split("/")[3];
  if (from && to && place) moved(decodeURIComponent(place), from, to);
}

async function reached(request: Request): Promise<Response> {
  let response: Response;
  try {
    // What was sent may have to be sent again.
    response = await fetch(request.clone());
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    noticeTrouble();
    throw new ApiError(0, UNREACHED);
  }
  if (response.status === 503) noticeTrouble();
  // A session that is over is no answer: what was asked waits until somebody is signed in again.
  if (
    response.status === 401 &&
    new URL(request.url).pathname !== SESSION &&
    !new URL(request.url).pathname.startsWith(YOURS) &&
    (await askedAgain("sign-in", request.signal))
  )
    return reached(request);
  // Nor is one that has to be proven once more.
  if (
    response.status === 403 &&
    response.headers.get("Needs") === "password" &&
    (await askedAgain("password", request.signal))
  )
    return reached(request);
  return response;
}

/** Every operation of the server by its path, as its own description has them. */
export const server = createClient<paths>({ fetch: (request) => once(request, reached) });

/** What the server answers; raises `ApiError` where it refuses. */
export async function answer<T>(
  asked: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await asked;
  if (!response.ok) throw readError(response.status, error);
  noteMove(response);
  return data as T;
}

/** Send a file as it is, in place of a body that is described as one. */
export const asItIs = (file: Blob) => ({
  body: "",
  bodySerializer: () => file,
  headers: { "Content-Type": "application/octet-stream" },
});

/** Send a file as it is and report how much of it has gone, from 0 to 1. */
export function upload<T>(
  path: string,
  file: File,
  onProgress: (part: number) => void,
): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", path);
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (event) => onProgress(event.total ? event.loaded / event.total : 0);
    request.onerror = () =>
      reject(new ApiError(0, "The upload was cut off. Nothing was stored; try again."));
    request.onload = () => {
      let body: unknown;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        body = null;
      }
      if (request.status < 300) resolve(body as T);
      else if (request.status === 401) {
        askedAgain("sign-in").then(
          (again) =>
            again
              ? upload<T>(path, file, onProgress).then(resolve, reject)
              : reject(readError(401, body)),
          reject,
        );
      } else reject(readError(request.status, body));
    };
    request.send(file);
  });
}
