import { useState } from "react";
import type { Who } from "../../api/who";
import { Button, TextField, Trouble } from "../../ui";
import { DemoPeople } from "./DemoPeople";
import { useSignIn } from "./queries";

/** What came of going to the identity provider. */
const PROVIDER_TROUBLE: Readonly<Record<string, string>> = {
  away: "The provider does not answer. Try again in a moment, or sign in by a password.",
  again: "This browser began no sign-in by the provider, or too long ago. Begin again.",
  unknown:
    "The provider knows you, but you have no account here yet. Whoever sees to people adds one with your e-mail.",
  unclear: "The provider did not say who you are in a way that can be checked. Tell whoever runs Odd Pair.",
};

/** Who one is, before anything is shown; `again` when somebody was signed in here a moment ago. */
export function SignInPage({ who, again }: { who: Who; again: boolean }) {
  const refused = PROVIDER_TROUBLE[new URLSearchParams(location.search).get("provider") ?? ""];
  return (
    <main className="mx-auto flex max-w-md flex-col gap-6 px-6 pt-[10vh] pb-10">
      <div>
        <h1 className="text-2xl font-semibold">{again ? "You are signed out" : "Odd Pair"}</h1>
        <p className="mt-1 text-soft">
          {again
            ? "Sign in again, and go on where you were: what you typed is kept."
            : "One trustworthy record for every customer and supplier. Sign in to begin."}
        </p>
      </div>
      {refused && (
        <p role="alert" className="rounded-[3px] border border-rust bg-rust-wash p-3 text-sm">
          {refused}
        </p>
      )}
      {who.demo_people.length > 0 && <DemoPeople people={who.demo_people} />}
      {who.accounts ? (
        <PasswordForm quiet={who.demo_people.length > 0} />
      ) : (
        <p className="rounded-[3px] border border-line-strong bg-sheet p-3 text-sm">
          Nobody has an account yet. The link that makes the first one was printed where Odd Pair was started; it is
          good once, for three days.
        </p>
      )}
      {who.provider && (
        <a
          href="/api/sign-in/provider"
          className="rounded-[3px] border border-line-strong bg-sheet px-3 py-1.5 text-center text-sm font-medium hover:bg-plum-wash"
        >
          Sign in by {who.provider}
        </a>
      )}
    </main>
  );
}

function PasswordForm({ quiet }: { quiet: boolean }) {
  const signIn = useSignIn();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  return (
    <form
      aria-label="Sign in by a password"
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        signIn.mutate({ sign_in: name, password });
      }}
    >
      <TextField
        label="Name to sign in with"
        autoComplete="username"
        value={name}
        maxLength={80}
        autoFocus={!quiet}
        onChange={(event) => setName(event.target.value)}
      />
      <TextField
        label="Password"
        type="password"
        autoComplete="current-password"
        value={password}
        maxLength={256}
        onChange={(event) => setPassword(event.target.value)}
      />
      {signIn.error && <Trouble error={signIn.error} />}
      <Button
        type="submit"
        look={quiet ? "plain" : "main"}
        disabled={signIn.isPending || name.trim() === "" || password === ""}
      >
        Sign in
      </Button>
    </form>
  );
}
