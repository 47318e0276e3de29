import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useChangeLayout, useLayout, useRegisters } from "../../api/registers";
import { Button, Choice, Faces, Modal, notify, Trouble } from "../../ui";
import { PersonalPart } from "./PersonalPart";

type Layout = Schemas["LayoutOut"];
type Draft = Pick<Layout["fields"][number], "name" | "label" | "kind" | "added" | "register_slug">;

const BOX = "h-7 w-full rounded-[3px] border border-line bg-sheet px-2 text-sm";

/** The name of a new field, made of its label: "Fax no." becomes "fax_no". */
function nameFrom(label: string): string {
  const plain = label
    .normalize("NFD")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^[^a-z]+|_+$/g, "");
  return plain.slice(0, 40);
}

function Fields({ slug, layout, onClose }: { slug: string; layout: Layout; onClose: () => void }) {
  const [fields, setFields] = useState<Draft[]>(layout.fields);
  const [label, setLabel] = useState("");
  const [kind, setKind] = useState("text");
  const [leadsTo, setLeadsTo] = useState("");
  const registers = (useRegisters().data ?? []).filter((register) => register.slug !== slug);
  const change = useChangeLayout(slug);
  const kinds = layout.kinds.map((value) => ({ value, label: value }));
  const add = () => {
    const register_slug = kind === "reference" ? leadsTo : "";
    setFields([...fields, { name: nameFrom(label), label: label.trim(), kind, added: true, register_slug }]);
    setLabel("");
  };
  const save = () =>
    change.mutate(
      { fields, seen_version: layout.version },
      {
        onSuccess: () => {
          notify("The layout is saved; all records are tidied again.");
          onClose();
        },
      },
    );
  return (
    <>
      <div className="max-h-[48vh] overflow-auto" tabIndex={0} role="region" aria-label="Fields of the layout">
        <ul>
          {fields.map((field, place) => (
            <li key={field.name} className="flex items-center gap-3 border-b border-line py-1 text-sm">
              <input
                aria-label={`Label of ${field.name}`}
                value={field.label}
                maxLength={60}
                onChange={(event) =>
                  setFields(fields.map((item, at) => (at === place ? { ...item, label: event.target.value } : item)))
                }
                className={BOX}
              />
              <span className="w-44 text-soft">
                {field.kind}
                {field.register_slug && ` to ${field.register_slug}`}
              </span>
              <span className="w-16">
                {field.added && (
                  <Button
                    look="quiet"
                    small
                    className="px-0"
                    aria-label={`Remove ${field.label}`}
                    onClick={() => setFields(fields.filter((_, at) => at !== place))}
                  >
                    Remove
                  </Button>
                )}
              </span>
            </li>
          ))}
        </ul>
      </div>
      <div className="mt-3 flex items-center gap-2 text-sm">
        <input
          aria-label="Label of a new field"
          placeholder="Label of a new field"
          value={label}
          maxLength={60}
          onChange={(event) => setLabel(event.target.value)}
          className={`${BOX} h-8`}
        />
        <Choice label="Kind of the new field" value={kind} options={kinds} onChange={setKind} className="w-48" />
        {kind === "reference" && (
          <Choice
            label="Register it leads to"
            value={leadsTo}
            options={registers.map((register) => ({ value: register.slug, label: register.name }))}
            onChange={setLeadsTo}
            className="w-40"
          />
        )}
        <Button
          disabled={
            nameFrom(label) === "" ||
            fields.some(({ name }) => name === nameFrom(label)) ||
            (kind === "reference" && leadsTo === "")
          }
          onClick={add}
        >
          Add field
        </Button>
      </div>
      <p className="mt-2 text-xs text-soft">
        A field can hold several values per record; labels given in the mapping (billing, delivery) tell them apart.
      </p>
      {change.error && <Trouble error={change.error} />}
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Leave</Button>
        <Button look="main" disabled={change.isPending} onClick={save}>
          Save the layout
        </Button>
      </div>
      <PersonalPart slug={slug} />
    </>
  );
}

/** The fields of the register: their labels, and fields beyond the usual ones. */
export function LayoutDialog({ slug, onClose }: { slug: string; onClose: () => void }) {
  const layout = useLayout(slug);
  return (
    <Modal title="Fields of this register" wide onClose={onClose}>
      <Faces query={layout}>{(data) => <Fields slug={slug} layout={data} onClose={onClose} />}</Faces>
    </Modal>
  );
}
