// Who is signed in.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { keepFor } from "../shared/kept";
import { answer, server, type Schemas } from "./client";
import { announce } from "./session";

/** Who is signed in by now, asked past everything that is remembered. */
export const askWhoIsThere = () => answer(server.GET("/api/session"));

/** Whoever it is: what they have typed is theirs. */
function known(me: Schemas["SignedIn"]) {
  keepFor(me.name ?? "");
  return me;
}

export const useMe = () =>
  useQuery({
    queryKey: ["me"],
    queryFn: () => askWhoIsThere().then(known),
    staleTime: Infinity,
    retry: false,
  });

export function useSignIn() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["SignIn"]) => answer(server.POST("/api/session", { body })),
    onSuccess: (me) => {
      client.setQueryData(["me"], known(me));
      announce();
    },
  });
}

export function useSignOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => answer(server.DELETE("/api/session")),
    onSuccess: () => {
      client.clear();
      client.setQueryData(["me"], known({ name: null }));
    },
  });
}
