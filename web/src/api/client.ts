// The one place that talks HTTP. Errors carry what the server said, by field where it named one.
import { moved } from "./moves";
import type { components } from "./schema";
import { signedInAgain } from "./session";
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

async function parse(response: Response): Promise<unknown> {
  if (response.status === 204) return null;
  try {
    return await response.json();
  } catch {
    return null;
  }
}

const SESSION = "/api/session";

/** A write has moved a draft on: by the place in its address. */
function noteMove(path: string, response: Response) {
  const [from, to] = (response.headers.get("Draft-Moved") ?? "").split(" ").map(Number);
  const place = path.split("/")[3];
  if (from && to && place) moved(decodeURIComponent(place), from, to);
}

async function fetched(path: string, init: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    noticeTrouble();
    throw new ApiError(0, UNREACHED);
  }
  if (response.status === 503) noticeTrouble();
  // A session that is over is no answer: what was asked waits until somebody is signed in again.
  if (
    response.status === 401 &&
    path !== SESSION &&
    (await signedInAgain(init.signal ?? undefined))
  )
    return fetched(path, init);
  return response;
}

async function answered<T>(path: string, init: RequestInit): Promise<T> {
  const response = await fetched(path, init);
  const answer = await parse(response);
  if (!response.ok) throw readError(response.status, answer);
  noteMove(path, response);
  return answer as T;
}

export const call = <T>(
  method: string,
  path: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<T> =>
  answered(path, {
    method,
    signal,
    headers: body === undefined ? {} : { "Content-Type": "application/json" },
    body: body === undefined ? undefined : JSON.stringify(body),
  });

/** Send a small file as it is. */
export const send = <T>(method: string, path: string, file: File): Promise<T> =>
  answered(path, { method, headers: { "Content-Type": "application/octet-stream" }, body: file });

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
        signedInAgain().then(
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
