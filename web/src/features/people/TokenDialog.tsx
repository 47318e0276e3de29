import { useState } from "react";
import { type Role, useWho } from "../../api/who";
import { Button, Modal, TextField, Trouble } from "../../ui";
import { SecretShown } from "./LinkShown";
import { useMakeToken } from "./queries";

const DAY_MS = 24 * 3600 * 1000;
const inDays = (days: number) => new Date(Date.now() + days * DAY_MS).toISOString().slice(0, 10);

/** A token for a program: what it is called, as what it may act, where, and until when. */
export function TokenDialog({ onClose }: { onClose: () => void }) {
  const who = useWho().data;
  const make = useMakeToken();
  const [label, setLabel] = useState("");
  const [roles, setRoles] = useState<readonly Role[]>([]);
  const [registers, setRegisters] = useState<readonly string[]>([]);
  const [endsOn, setEndsOn] = useState(inDays(90));
  const own = [...new Set(who?.registers.flatMap((register) => register.roles))];
  if (make.data)
    return (
      <SecretShown
        title={`The token ${make.data.token.label}`}
        says="The program shows it with every request."
        secret={make.data.secret}
        onClose={onClose}
      />
    );
  return (
    <Modal title="Make a token for a program" onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate({
            label: label.trim(),
            roles: [...roles],
            registers: registers.length ? [...registers] : null,
            ends_on: endsOn,
          });
        }}
      >
        <TextField
          label="Name"
          hint="What program shows it."
          value={label}
          maxLength={80}
          onChange={(event) => setLabel(event.target.value)}
        />
        <Ticks legend="It may act as" options={own} chosen={roles} onChange={setRoles} />
        <Ticks
          legend="In these registers; in all, if none is chosen"
          options={who?.registers.map(({ slug }) => slug) ?? []}
          chosen={registers}
          onChange={setRegisters}
        />
        <TextField
          label="Last day"
          type="date"
          min={inDays(0)}
          max={inDays(365)}
          value={endsOn}
          onChange={(event) => setEndsOn(event.target.value)}
        />
        {make.error && <Trouble error={make.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button
            type="submit"
            look="main"
            disabled={make.isPending || label.trim() === "" || roles.length === 0 || endsOn === ""}
          >
            Make it
          </Button>
        </div>
      </form>
    </Modal>
  );
}

function Ticks<T extends string>({
  legend,
  options,
  chosen,
  onChange,
}: {
  legend: string;
  options: readonly T[];
  chosen: readonly T[];
  onChange: (chosen: readonly T[]) => void;
}) {
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-medium">{legend}</legend>
      <div className="flex flex-wrap gap-x-4">
        {options.map((option) => (
          <label key={option} className="flex min-h-6 items-center gap-2 text-sm">
            <input
              type="checkbox"
              className="accent-plum"
              checked={chosen.includes(option)}
              onChange={(event) =>
                onChange(event.target.checked ? [...chosen, option] : chosen.filter((own) => own !== option))
              }
            />
            {option}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
