/** Who is signed in; in and out. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { type Schemas, api, onSignedOut, unwrap } from "../client";
import { queryClient } from "./client";

export const useAskMe = () =>
  useQuery({ queryKey: ["me"], queryFn: () => unwrap(api.GET("/api/me")), staleTime: Infinity });

// Wherever it turns out that one is signed out: who is signed in is asked again, and the door is shown.
onSignedOut(() => void queryClient.invalidateQueries({ queryKey: ["me"] }));

/** Something by which one is signed in. Whatever was fetched before was somebody else's. */
function useComingIn<Body>(ask: (body: Body) => Promise<Schemas["MePublic"]>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ask,
    onSuccess: (me) => {
      client.removeQueries({ predicate: ({ queryKey }) => queryKey[0] !== "me" });
      client.setQueryData(["me"], me);
    },
  });
}

export const useSetUp = () => useComingIn((body: Schemas["SetUp"]) => unwrap(api.POST("/api/set-up", { body })));
export const useSignIn = () => useComingIn((body: Schemas["SignIn"]) => unwrap(api.POST("/api/sign-in", { body })));
export const useDemo = () => useComingIn(() => unwrap(api.POST("/api/sign-in/demo")));
export const useRecover = () => useComingIn((body: Schemas["Recover"]) => unwrap(api.POST("/api/recover", { body })));
export const useOpenLink = () =>
  useComingIn((body: Schemas["LinkOpen"]) => unwrap(api.POST("/api/links/open", { body })));

export function useSignOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(api.POST("/api/sign-out")),
    onSuccess: async () => {
      await client.fetchQuery({ queryKey: ["me"], queryFn: () => unwrap(api.GET("/api/me")), staleTime: 0 });
      client.removeQueries({ predicate: ({ queryKey }) => queryKey[0] !== "me" });
    },
  });
}
