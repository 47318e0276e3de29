import { useState } from "react";
import { useLayout } from "../../api/registers";
import { Button, Choice, Modal, TextField, Trouble } from "../../ui";
import { type Recognition, useSetRecognition } from "./outcomeQueries";

const PARENTS = [
  { value: "tell", label: "is told, and it becomes a golden record" },
  { value: "aside", label: "is put aside until that is there" },
  { value: "make", label: "lets that be made, by its name" },
] as const;

interface Props {
  slug: string;
  recognition: Recognition;
  onClose: () => void;
}

/** Which golden records may be recognised, and what becomes of a record whose parent is not there. */
export function RecognitionDialog({ slug, recognition, onClose }: Props) {
  const [field, setField] = useState(recognition.only_field);
  const [values, setValues] = useState(recognition.only_values.join(", "));
  const [parents, setParents] = useState(recognition.parents);
  const set = useSetRecognition(slug);
  const fields = useLayout(slug).data?.fields ?? [];
  return (
    <Modal title="What may be recognised" onClose={onClose}>
      <form
        className="space-y-4"
        onSubmit={(event) => {
          event.preventDefault();
          const only = { field, values: field ? values.split(",").map((value) => value.trim()) : [] };
          set.mutate({ on: recognition.on, only, parents }, { onSuccess: onClose });
        }}
      >
        <div>
          <p className="mb-1 text-sm font-medium">Golden records</p>
          <Choice
            label="Golden records"
            value={field}
            options={[
              { value: "", label: "all of them" },
              ...fields.map(({ name, label }) => ({ value: name, label: `whose ${label.toLowerCase()} is` })),
            ]}
            onChange={setField}
            className="w-full"
          />
        </div>
        {field && (
          <TextField
            label="One of these values"
            hint="with commas between them; whoever is like another one becomes a golden record of its own"
            value={values}
            onChange={(event) => setValues(event.target.value)}
          />
        )}
        {recognition.parent_field && (
          <div>
            <p className="mb-1 text-sm font-medium">
              A record whose {recognition.parent_field.toLowerCase()} is not there
            </p>
            <Choice
              label="A record without a parent"
              value={parents}
              options={PARENTS}
              onChange={setParents}
              className="w-full"
            />
          </div>
        )}
        {set.error && <Trouble error={set.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button type="submit" look="main" disabled={set.isPending}>
            Set
          </Button>
        </div>
      </form>
    </Modal>
  );
}
