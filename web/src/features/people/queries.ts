import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { useSignedIn } from "../../api/who";
import { counted } from "../../domain/format";
import { notify } from "../../ui";

export type Person = Schemas["PersonOut"];
export type NewPerson = Schemas["NewPerson"];
export type RoleGiven = Schemas["RoleGivenOut"];
export type Browser = Schemas["BrowserOut"];
export type Token = Schemas["TokenOut"];
export type NewToken = Schemas["NewToken"];

export function useSignIn() {
  const signedIn = useSignedIn();
  return useMutation({
    mutationFn: (body: Schemas["SignIn"]) => unwrap(client.POST("/api/sign-in", { body })),
    onSuccess: (who) => {
      signedIn(who);
      if (who.wrong_before > 0)
        notify(`${counted(who.wrong_before, "wrong password")} for your name of late. If it was not you, tell.`, true);
    },
  });
}

export function useSignInAs() {
  const signedIn = useSignedIn();
  return useMutation({
    mutationFn: (name: string) => unwrap(client.POST("/api/sign-in/demo", { body: { name } })),
    onSuccess: signedIn,
  });
}

/** Whom a one-time link is for; its secret never stands in an address that is sent. */
export function useWelcome(secret: string) {
  return useQuery({
    queryKey: ["welcome", secret],
    enabled: secret !== "",
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => unwrap(client.POST("/api/welcome", { body: { secret } })),
  });
}

export function useChoosePassword() {
  const signedIn = useSignedIn();
  return useMutation({
    mutationFn: (body: Schemas["ChosenPassword"]) => unwrap(client.POST("/api/welcome/password", { body })),
    onSuccess: signedIn,
  });
}

export function useBrowsers() {
  return useQuery({
    queryKey: [...keys.account, "browsers"],
    queryFn: () => unwrap(client.GET("/api/account/browsers")),
  });
}

export function useTokens() {
  return useQuery({ queryKey: [...keys.account, "tokens"], queryFn: () => unwrap(client.GET("/api/account/tokens")) });
}

function useRefreshed(key: readonly string[]) {
  const queries = useQueryClient();
  return () => queries.invalidateQueries({ queryKey: key });
}

/** Sign out in one browser, or, without one, everywhere but here. */
export function useEndBrowsers() {
  return useMutation({
    mutationFn: (id: number | undefined) =>
      id === undefined
        ? unwrap(client.DELETE("/api/account/browsers"))
        : unwrap(client.DELETE("/api/account/browsers/{browser_id}", { params: { path: { browser_id: id } } })),
    onSuccess: useRefreshed(keys.account),
  });
}

export function useChangePassword() {
  return useMutation({
    mutationFn: (body: Schemas["PasswordChange"]) => unwrap(client.PUT("/api/account/password", { body })),
    onSuccess: useRefreshed(keys.account),
  });
}

export function useMakeToken() {
  return useMutation({
    mutationFn: (body: NewToken) => unwrap(client.POST("/api/account/tokens", { body })),
    onSuccess: useRefreshed(keys.account),
  });
}

export function useEndToken() {
  return useMutation({
    mutationFn: (id: number) =>
      unwrap(client.DELETE("/api/account/tokens/{token_id}", { params: { path: { token_id: id } } })),
    onSuccess: useRefreshed(keys.account),
  });
}

export function usePeople() {
  return useQuery({ queryKey: keys.people, queryFn: () => unwrap(client.GET("/api/people")) });
}

export function useAddPerson() {
  return useMutation({
    mutationFn: (body: NewPerson) => unwrap(client.POST("/api/people", { body })),
    onSuccess: useRefreshed(keys.people),
  });
}

const of = (person: Person) => ({ params: { path: { person_id: person.id } } });

export function useChangePerson(person: Person) {
  return useMutation({
    mutationFn: (roles: RoleGiven[]) =>
      unwrap(client.PUT("/api/people/{person_id}", { ...of(person), body: { email: person.email, roles } })),
    onSuccess: useRefreshed(keys.people),
  });
}

export function useResetPerson() {
  return useMutation({
    mutationFn: (person: Person) => unwrap(client.POST("/api/people/{person_id}/link", of(person))),
    onSuccess: useRefreshed(keys.people),
  });
}

export function useSignOutPerson() {
  return useMutation({
    mutationFn: (person: Person) => unwrap(client.DELETE("/api/people/{person_id}/browsers", of(person))),
  });
}

export function useEndPerson() {
  return useMutation({
    mutationFn: (person: Person) => unwrap(client.DELETE("/api/people/{person_id}", of(person))),
    onSuccess: useRefreshed(keys.people),
  });
}
