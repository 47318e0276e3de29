import { useState } from "react";
import { useRegisters } from "../../../api/registers";
import { Button } from "../../../ui";
import type { Words } from "../draft/queries";
import type { Editing } from "./editing";
import { DropButton, TextInput, WordChoice } from "./inputs";

interface Related {
  register: string;
  by: string;
  take: Record<string, string>;
}

/** Values of records of another register that refer to those compared: an organisation by the e-mails of its contacts. */
export function RelatedPart({ edit, words }: { edit: Editing; words: Words | undefined }) {
  const related = edit.get<Related[]>(["related"]) ?? [];
  const registers = useRegisters().data?.map(({ slug }) => slug) ?? [];
  const [register, setRegister] = useState("");
  const fields = words?.fields.map(({ name }) => name) ?? [];
  return (
    <div className="space-y-2 text-sm">
      {related.map((one, number) => (
        <div key={`${one.register} ${one.by}`} className="flex flex-wrap items-center gap-2">
          records of <b>{one.register}</b> that refer here by
          <TextInput
            label={`Reference field of ${one.register}`}
            value={one.by}
            width="w-32 font-mono text-xs"
            onSet={(by) => edit.set(["related", number, "by"], by)}
          />
          {Object.entries(one.take).map(([own, theirs]) => (
            <span key={own} className="flex items-center gap-1">
              bring for
              <WordChoice
                label={`Own field for ${one.register}`}
                value={own}
                words={fields}
                onSet={(field) => edit.set(["related", number, "take"], { [field]: theirs })}
              />
              their
              <TextInput
                label={`Their field for ${own}`}
                value={theirs}
                width="w-28 font-mono text-xs"
                onSet={(field) => edit.set(["related", number, "take", own], field)}
              />
            </span>
          ))}
          <DropButton label={`No values of ${one.register}`} onDrop={() => edit.drop(["related", number])} />
        </div>
      ))}
      <div className="flex items-center gap-2">
        <WordChoice label="Register that refers here" value={register} words={registers} onSet={setRegister} />
        <Button
          disabled={!register}
          onClick={() => edit.add(["related"], { register, by: "organisation", take: { email: "email" } })}
        >
          Take its values
        </Button>
      </div>
    </div>
  );
}
