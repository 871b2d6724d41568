// Signing in at the provider: this tab goes there, or another one does where something is typed.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, server } from "./client";
import { signedIn } from "./people";
import { announce } from "./session";

/** Where the provider sends people back to. */
export const RETURN = "/signed-in";
const BACK = "hornfels-back";

/** What another tab opens with: signing in, or showing once more that one is there. */
export const OPENING = { first: `${RETURN}?go=first`, again: `${RETURN}?go=again` } as const;

const begin = (again: boolean) =>
  answer(server.POST("/api/session/elsewhere", { body: { again } }));

/** Sign in there and come back to where one is now. */
export const useGoElsewhere = () =>
  useMutation({
    mutationFn: () => begin(false),
    onSuccess: ({ address }) => {
      sessionStorage.setItem(BACK, window.location.pathname + window.location.search);
      window.location.assign(address);
    },
  });

/**
 * On the page that the provider sends back to: what its answer comes to. The place to go on at, ""
 * where another tab does; null while this one is on its way there.
 */
export function useReturn(search: string) {
  const client = useQueryClient();
  return useQuery({
    queryKey: ["elsewhere", search],
    retry: false,
    staleTime: Infinity,
    gcTime: Infinity,
    queryFn: async () => {
      const asked = new URLSearchParams(search);
      const go = asked.get("go");
      if (go) {
        const { address } = await begin(go === "again");
        window.location.replace(address);
        return null;
      }
      const body = {
        state: asked.get("state") ?? "",
        code: asked.get("code") ?? "",
        error: asked.get("error") ?? "",
        iss: asked.get("iss"),
      };
      const me = await answer(server.POST("/api/session/elsewhere/back", { body }));
      await signedIn(client, me);
      announce();
      const back = sessionStorage.getItem(BACK) ?? "";
      sessionStorage.removeItem(BACK);
      return back;
    },
  });
}
