import { useState } from "react";
import { Button, notify, TextField, Trouble } from "../../ui";
import { useChangePassword } from "./queries";

const NOTHING = { present: "", fresh: "", again: "" };

/** Another password; everywhere but here one is signed out by it. */
export function PasswordPart() {
  const change = useChangePassword();
  const [values, setValues] = useState(NOTHING);
  const set = (field: keyof typeof values) => (event: { target: { value: string } }) =>
    setValues({ ...values, [field]: event.target.value });
  const done = () => {
    setValues(NOTHING);
    notify("The password is changed; you are signed out everywhere but here.");
  };
  return (
    <form
      aria-label="Password"
      className="max-w-md space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate({ present: values.present, fresh: values.fresh }, { onSuccess: done });
      }}
    >
      <h2 className="font-semibold">Password</h2>
      <TextField
        label="Present password"
        type="password"
        autoComplete="current-password"
        value={values.present}
        onChange={set("present")}
      />
      <TextField
        label="New password"
        hint="15 letters at least, of any kind."
        type="password"
        autoComplete="new-password"
        value={values.fresh}
        onChange={set("fresh")}
      />
      <TextField
        label="The new one again"
        type="password"
        autoComplete="new-password"
        value={values.again}
        onChange={set("again")}
      />
      {change.error && <Trouble error={change.error} />}
      <Button
        type="submit"
        disabled={change.isPending || values.present === "" || values.fresh === "" || values.again !== values.fresh}
      >
        Change it
      </Button>
    </form>
  );
}
