import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "./client";
import { keys } from "./keys";

export type Who = Schemas["WhoOut"];
export type Permission = Schemas["Permission"];
export type Role = Schemas["Role"];

/** Who is signed in here, and what may be done; asked again when an answer says that nobody is. */
export function useWho() {
  return useQuery({
    queryKey: keys.who,
    queryFn: () => unwrap(client.GET("/api/sign-in")),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/**
 * Ask who is signed in, as something was refused. A question that is under way is waited for: pages ask for what was refused again and
 * again, and would never let one be answered.
 */
export const askWhoIsIn = (queries: QueryClient) =>
  queries.invalidateQueries({ queryKey: keys.who }, { cancelRefetch: false });

/** Take over who has just signed in: whatever was shown to somebody else is forgotten. */
export function useSignedIn() {
  const queries = useQueryClient();
  return (who: Who) => {
    const before = queries.getQueryData<Who>(keys.who)?.name;
    queries.setQueryData(keys.who, who);
    const others = { predicate: ({ queryKey }: { queryKey: readonly unknown[] }) => queryKey[0] !== keys.who[0] };
    if (before === who.name) void queries.invalidateQueries(others);
    else queries.removeQueries(others);
  };
}

/** Whether a person may do an act in a register: by a role there, or by one in every register, also those that were made since. */
export const mayIn = (who: Who, slug: string, act: Permission) =>
  who.everywhere.includes(act) ||
  who.registers.some((register) => register.slug === slug && register.acts.includes(act));

/** The same for whoever is signed in; where it is not known who asks, the server will say. */
export function useMayIn() {
  const who = useWho().data;
  return (slug: string, act: Permission) => who === undefined || mayIn(who, slug, act);
}

export function useSignOut() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/sign-in")),
    onSettled: () => {
      queries.clear();
      // What is left in memory of what was shown goes with the page.
      location.assign("/");
    },
  });
}
