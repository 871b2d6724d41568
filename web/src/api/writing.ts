// How writes go out: into the draft that is shown, one after another, each for the version that was
// seen.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { domainOf, draftOf, lastDraft, placeOf } from "../draft/place";
import { useShow } from "../draft/useShow";
import { answer, ApiError, server, type Schemas } from "./client";
import { inTurn, latest, moved } from "./moves";

/** Where an edit goes: the draft that is shown, else the one shown last, else a new one. */
async function placeForWriting(place: string) {
  if (draftOf(place) !== null) return place;
  const params = { path: { domain: place } };
  const last = lastDraft(place);
  if (last !== null) {
    const open = await answer(server.GET("/api/domains/{domain}/drafts", { params }));
    if (open.some((d) => d.id === last)) return placeOf(place, last);
  }
  const made = await answer(
    server.POST("/api/domains/{domain}/drafts", { params, body: { title: "" } }),
  );
  return placeOf(place, made.id);
}

/** A policy that was written is known already. */
const policyIn = (result: unknown) => (result as Partial<Schemas["PolicyDetail"]> | null)?.guid;

/**
 * Edits: they go to the draft that is shown. From live they open one, or go on with the one shown
 * last, and show it.
 */
export function useDraftWrite<A, R>(
  domain: string,
  write: (place: string, argument: A) => Promise<R>,
) {
  const client = useQueryClient();
  const show = useShow(domain);
  return useMutation({
    mutationFn: (argument: A) =>
      inTurn(domainOf(domain), async () => {
        const place = await placeForWriting(domain);
        return { place, result: await write(place, argument) };
      }),
    onSuccess: async ({ place, result }) => {
      const guid = policyIn(result);
      if (guid) client.setQueryData(["domain", place, "policy", guid], result);
      await client.invalidateQueries({ queryKey: ["domain", place] });
      void client.invalidateQueries({ queryKey: ["drafts"] });
      show(place);
    },
    onError: (error) => {
      // What is shown is not what is there.
      if (conflictOf(error)) void client.invalidateQueries({ queryKey: ["domain", domain] });
    },
  });
}

/** Writes that change what live resolves to: everything read from it is stale afterwards. */
export function useDomainWrite<A, R>(domain: string, write: (argument: A) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["domain", domain] });
      await client.invalidateQueries({ queryKey: ["domains"] });
      // It may wait for a second person.
      await client.invalidateQueries({ queryKey: ["acts"] });
    },
  });
}

/**
 * A write to one policy in a draft, made for the version that was seen or what one's own writes
 * have made of it.
 */
export function policyWrite<A extends { version: number }, R extends { version: number }>(
  guid: string,
  write: (place: string, argument: A) => Promise<R>,
) {
  return async (place: string, argument: A) => {
    // In live and in a draft that does not change it a policy has the same version.
    const version = latest(`${place} ${guid}`, argument.version);
    const detail = await write(place, { ...argument, version });
    moved(`${place} ${guid}`, version, detail.version);
    if (version !== argument.version) moved(`${place} ${guid}`, argument.version, detail.version);
    return detail;
  };
}

/** The stored policy, if the error says that somebody else changed it meanwhile. */
export function conflictOf(error: unknown): Schemas["Conflict"] | null {
  if (
    error instanceof ApiError &&
    error.status === 409 &&
    error.body &&
    "current" in (error.body as object)
  ) {
    return error.body as Schemas["Conflict"];
  }
  return null;
}
