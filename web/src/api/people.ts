// Who is signed in, and who may do what.
import { useMutation, useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { keepFor } from "../shared/kept";
import { answer, server, type Schemas } from "./client";
import { announce } from "./session";

/** Who is signed in by now, asked past everything that is remembered. */
export const askWhoIsThere = () => answer(server.GET("/api/session"));

/** Whoever it is: what they have typed is theirs. */
export function known(me: Schemas["SignedIn"]) {
  keepFor(me.name ?? "");
  return me;
}

/** Keep who has signed in; that people have pages of their own was told before. */
export async function signedIn(client: QueryClient, me: Schemas["SignedIn"]) {
  // Whoever was there before may be told of later than this.
  await client.cancelQueries({ queryKey: ["me"] });
  const before = client.getQueryData<Schemas["SignedIn"]>(["me"]);
  client.setQueryData(["me"], known({ ...me, own_page: before?.own_page ?? false }));
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
    onSuccess: async (me) => {
      await signedIn(client, me);
      announce();
    },
  });
}

export function useSignOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => answer(server.DELETE("/api/session")),
    onSuccess: () => {
      const here = client.getQueryData<Schemas["SignedIn"]>(["me"]) ?? NOBODY;
      client.clear();
      const { provider, own_page } = here;
      client.setQueryData(["me"], known({ ...NOBODY, provider, own_page }));
      // What is open to nobody may not have been asked for yet.
      void client.invalidateQueries({ queryKey: ["me"] });
    },
  });
}

const NOBODY: Schemas["SignedIn"] = {
  name: null,
  one_time: false,
  rights: [],
  everywhere: [],
  elsewhere: false,
  provider: "",
  own_page: false,
};

export type Right = Schemas["SignedIn"]["rights"][number];

/** The password once more, before something that takes it. */
export const useProof = () =>
  useMutation({
    mutationFn: (password: string) =>
      answer(server.POST("/api/session/proof", { body: { password } })),
  });

export function useChangePassword() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["PasswordChange"]) =>
      answer(server.POST("/api/session/password", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["me"] }),
  });
}

const OWN = ["own"];

export const useOwnSessions = () =>
  useQuery({
    queryKey: [...OWN, "sessions"],
    queryFn: () => answer(server.GET("/api/session/all")),
  });

export const useTokens = () =>
  useQuery({
    queryKey: [...OWN, "tokens"],
    queryFn: () => answer(server.GET("/api/session/tokens")),
  });

/** A change of one's own sessions and tokens. */
function useOwnWrite<A, R>(write: (argument: A) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSuccess: () => client.invalidateQueries({ queryKey: OWN }),
  });
}

export const useEndSession = () =>
  useOwnWrite((session: string | null) =>
    session === null
      ? answer(server.DELETE("/api/session/all"))
      : answer(server.DELETE("/api/session/all/{session}", { params: { path: { session } } })),
  );

export const useMakeToken = () =>
  useOwnWrite((body: Schemas["TokenNew"]) => answer(server.POST("/api/session/tokens", { body })));

export const useDropToken = () =>
  useOwnWrite((token: string) =>
    answer(server.DELETE("/api/session/tokens/{token}", { params: { path: { token } } })),
  );

export const usePeople = () =>
  useQuery({ queryKey: ["people"], queryFn: () => answer(server.GET("/api/people")) });

/** What waits for a second person. */
export const useActs = () =>
  useQuery({ queryKey: ["acts"], queryFn: () => answer(server.GET("/api/acts")) });

/** Who may do what has changed, or waits to be. */
function usePeopleWrite<A, R>(write: (argument: A) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSettled: () =>
      client.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== "me" }),
  });
}

export const useAddPerson = () =>
  usePeopleWrite((body: Schemas["PersonNew"]) => answer(server.POST("/api/people", { body })));

export const useChangeRole = () =>
  usePeopleWrite(({ name, ...body }: Schemas["RoleChange"] & { name: string }) =>
    answer(server.POST("/api/people/{name}/roles", { params: { path: { name } }, body })),
  );

export const useChangeSignIn = () =>
  usePeopleWrite(({ name, ...body }: Schemas["PersonChange"] & { name: string }) =>
    answer(server.POST("/api/people/{name}/sign-in", { params: { path: { name } }, body })),
  );

export const useConfirmAct = () =>
  usePeopleWrite((act: number) =>
    answer(server.POST("/api/acts/{act}/confirm", { params: { path: { act } } })),
  );

export const useWithdrawAct = () =>
  usePeopleWrite((act: number) =>
    answer(server.DELETE("/api/acts/{act}", { params: { path: { act } } })),
  );
