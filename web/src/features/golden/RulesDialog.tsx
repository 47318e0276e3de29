import { useState } from "react";
import { useLayout, useRegister } from "../../api/registers";
import { Button, Choice, Faces, Modal, notify, Trouble } from "../../ui";
import { useChangeRules } from "./queries";

const FORMS = {
  standard: {
    label: "in standard form",
    says: "Proper case, names in parts, numbers and dates in one shape, addresses as their country writes them.",
  },
  "as delivered": { label: "as delivered", says: "Letter for letter as the source that won wrote them." },
};
type Form = keyof typeof FORMS;
const WAYS = (Object.keys(FORMS) as Form[]).map((value) => ({ value, label: FORMS[value].label }));

/** Which value survives, per field or group, and how it is written; golden records follow in the background, pins excepted. */
export function RulesDialog({ slug, onClose }: { slug: string; onClose: () => void }) {
  const layout = useLayout(slug);
  const register = useRegister(slug);
  const [draft, setDraft] = useState<Record<string, string>>({});
  const [form, setForm] = useState<Form>();
  const change = useChangeRules(slug);
  const rules = { ...register?.rules, ...draft };
  const written = form ?? register?.form ?? "standard";
  const save = () =>
    change.mutate(
      { rules: draft, ...(form && { form }), seen_version: register?.version ?? 1 },
      {
        onSuccess: () => {
          notify("The golden records follow the new rules in the background.");
          onClose();
        },
      },
    );
  return (
    <Modal title="Survivorship rules" onClose={onClose}>
      <Faces query={layout}>
        {(data) => {
          const options = Object.entries(data.rules).map(([value, hint]) => ({ value, label: value, hint }));
          const units = [...new Map(data.fields.map((field) => [field.group, field])).values()];
          return (
            <div className="space-y-1.5">
              {units.map((field) => (
                <div key={field.group} className="flex items-center justify-between gap-4 text-sm">
                  <span>{field.group === "address" ? "Address, as a whole" : field.label}</span>
                  <Choice
                    label={`Rule of ${field.group}`}
                    value={rules[field.group] ?? ""}
                    options={options}
                    onChange={(rule) => setDraft({ ...draft, [field.group]: rule })}
                    className="w-44"
                  />
                </div>
              ))}
              <div className="flex items-center justify-between gap-4 border-line border-t pt-3 text-sm">
                <span>
                  Values are written
                  <span className="block text-soft text-xs">{FORMS[written].says}</span>
                </span>
                <Choice
                  label="Form of the values"
                  value={written}
                  options={WAYS}
                  onChange={setForm}
                  className="w-44 shrink-0"
                />
              </div>
            </div>
          );
        }}
      </Faces>
      {change.error && <Trouble error={change.error} />}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Leave</Button>
        <Button look="main" disabled={(Object.keys(draft).length === 0 && !form) || change.isPending} onClick={save}>
          Set rules and recompute
        </Button>
      </div>
    </Modal>
  );
}
