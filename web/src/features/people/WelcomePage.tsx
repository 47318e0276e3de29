import { useState } from "react";
import { useNavigate } from "react-router";
import { Button, Faces, TextField, Trouble } from "../../ui";
import { useChoosePassword, useWelcome } from "./queries";

/** Where a one-time link leads: a password is chosen, and for the first account a name. */
export function WelcomePage() {
  const [secret] = useState(() => location.hash.slice(1));
  const welcome = useWelcome(secret);
  return (
    <main className="mx-auto max-w-md px-6 pt-[10vh] pb-10">
      <h1 className="mb-4 text-2xl font-semibold">Welcome to Odd Pair</h1>
      {secret === "" ? (
        <p>This address is not whole: the link ends with a # and a long word behind it. Copy all of it.</p>
      ) : (
        <Faces query={welcome} rows={4}>
          {(found) => <ChooseForm secret={secret} {...found} />}
        </Faces>
      )}
    </main>
  );
}

interface Props {
  secret: string;
  name: string;
  sign_in: string;
  first: boolean;
}

function ChooseForm({ secret, name, sign_in, first }: Props) {
  const choose = useChoosePassword();
  const navigate = useNavigate();
  const [values, setValues] = useState({ name, sign_in, password: "", again: "" });
  const set = (field: keyof typeof values) => (event: { target: { value: string } }) =>
    setValues({ ...values, [field]: event.target.value });
  const differs = values.again !== "" && values.again !== values.password;
  const complete = values.name.trim() && values.sign_in.trim() && values.password && values.again === values.password;
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        const { again: _, ...body } = values;
        choose.mutate({ secret, ...body }, { onSuccess: () => navigate("/", { replace: true }) });
      }}
    >
      <p className="text-soft">
        {first
          ? "This makes the first account. It may do everything, and adds the others."
          : `${name}, choose a password. You sign in with the name ${sign_in}.`}
      </p>
      {first && (
        <>
          <TextField
            label="Your name"
            hint="All that you do is kept under it, for ever."
            value={values.name}
            maxLength={80}
            autoFocus
            onChange={set("name")}
          />
          <TextField
            label="Name to sign in with"
            autoComplete="username"
            value={values.sign_in}
            maxLength={80}
            onChange={set("sign_in")}
          />
        </>
      )}
      <TextField
        label="Password"
        hint="15 letters at least, of any kind. Several words that do not belong together are easy to keep."
        type="password"
        autoComplete="new-password"
        value={values.password}
        maxLength={256}
        autoFocus={!first}
        onChange={set("password")}
      />
      <TextField
        label="The same password again"
        type="password"
        autoComplete="new-password"
        value={values.again}
        maxLength={256}
        aria-invalid={differs}
        {...(differs ? { hint: "These two are not the same yet." } : {})}
        onChange={set("again")}
      />
      {choose.error && <Trouble error={choose.error} />}
      <Button type="submit" look="main" disabled={choose.isPending || !complete}>
        {first ? "Make the account" : "Choose it and begin"}
      </Button>
    </form>
  );
}
