import { type FormEvent, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useLayout } from "../../api/registers";
import { nothing } from "../../domain/mapping";
import { Button, Choice, Modal, notify, TextField, Trouble } from "../../ui";
import {
  type CounterpartList,
  type ListSettings,
  useChangeList,
  useCompared,
  useForgetList,
  useReplaceFile,
} from "./queries";

const number = (text: string) => (text.trim() === "" ? null : Number(text.replace(",", ".")));

/** How the columns are read, which limits hold, what is kept of a counterpart, and which fields settle what is ambiguous. */
export function SettingsDialog({ slug, list, onClose }: { slug: string; list: CounterpartList; onClose: () => void }) {
  const fields = useLayout(slug).data?.fields ?? [];
  const [targets, setTargets] = useState(
    new Map(list.mapping.filter(({ column }) => column).map(({ column, field }) => [column, field])),
  );
  const [settings, setSettings] = useState<ListSettings>(list.settings);
  const [follows, setFollows] = useState(list.follows);
  const change = useChangeList(slug, list.name);
  const set = (values: Partial<ListSettings>) => setSettings({ ...settings, ...values });
  const compared = useCompared(slug);
  const further = fields.filter(
    ({ name }) =>
      [...targets.values()].includes(name) && !compared.some((field) => name === field || name.startsWith(`${field}.`)),
  );
  const constants = list.mapping.filter(({ column }) => !column);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const columns = [...targets].filter(([, field]) => field);
    const mapping = columns.map(
      ([column, field]) =>
        list.mapping.find((item) => item.column === column && item.field === field) ?? { ...nothing(column), field },
    );
    change.mutate(
      { settings, follows, mapping: [...mapping, ...constants] },
      {
        onSuccess: () => {
          notify("Set. Look the rows up again to see what it changes.");
          onClose();
        },
      },
    );
  };
  return (
    <Modal title="How it is looked up" onClose={onClose} wide>
      <form onSubmit={submit} className="space-y-4 text-sm">
        <Columns list={list} fields={fields} targets={targets} onChange={setTargets} />
        <Limits settings={settings} set={set} />
        <FieldBoxes
          legend="Columns of the counterpart that are sent out"
          fields={fields}
          chosen={settings.keep ?? []}
          onChange={(keep) => set({ keep })}
        />
        {further.length > 0 && (
          <FieldBoxes
            legend="Further fields to look at where several fit"
            fields={further}
            chosen={settings.further ?? []}
            onChange={(chosen) => set({ further: chosen })}
          />
        )}
        <div className="flex flex-wrap gap-x-6 gap-y-1">
          <Box
            label="Neither side has duplicates: the best pairing over all"
            checked={settings.one_to_one ?? false}
            onChange={(one_to_one) => set({ one_to_one })}
          />
          <Box label="Look up again when the register changes" checked={follows} onChange={setFollows} />
        </div>
        {change.error && <Trouble error={change.error} />}
        <div className="flex items-center gap-2">
          <FileButtons slug={slug} list={list} onClose={onClose} />
          <Button className="ml-auto" onClick={onClose}>
            Leave
          </Button>
          <Button type="submit" look="main" disabled={change.isPending}>
            Set
          </Button>
        </div>
      </form>
    </Modal>
  );
}

type Fields = readonly { name: string; label: string }[];

function Columns({
  list,
  fields,
  targets,
  onChange,
}: {
  list: CounterpartList;
  fields: Fields;
  targets: Map<string, string>;
  onChange: (targets: Map<string, string>) => void;
}) {
  const options = [
    { value: "", label: "not compared" },
    { value: "id", label: "Id of the row" },
    ...fields.map(({ name, label }) => ({ value: name, label })),
  ];
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">What the columns of {list.file_name} are</legend>
      <div className="grid max-h-52 grid-cols-2 gap-x-6 gap-y-1 overflow-auto">
        {list.columns.map((column) => (
          <div key={column} className="flex items-center justify-between gap-2">
            <span className="truncate font-mono text-xs">{column}</span>
            <Choice
              label={`Column ${column}`}
              value={targets.get(column) ?? ""}
              options={options}
              onChange={(field) => onChange(new Map(targets).set(column, field))}
              className="w-48"
            />
          </div>
        ))}
      </div>
    </fieldset>
  );
}

const LIMITS = [
  { name: "matched_from", label: "Matched from, bits", hint: "empty: as the plan", least: null },
  { name: "none_below", label: "None below, bits", hint: "empty: as the plan", least: null },
  { name: "margin", label: "Lead of the best, bits", hint: "else there are several", least: 0 },
  { name: "best", label: "Candidates a row", hint: "1 to 100", least: 1 },
] as const;

function Limits({ settings, set }: { settings: ListSettings; set: (values: Partial<ListSettings>) => void }) {
  return (
    <div className="grid grid-cols-4 gap-3">
      {LIMITS.map(({ name, label, hint, least }) => (
        <TextField
          key={name}
          label={label}
          hint={hint}
          inputMode="decimal"
          defaultValue={settings[name] ?? ""}
          onChange={(event) => set({ [name]: number(event.target.value) ?? least })}
        />
      ))}
    </div>
  );
}

function FieldBoxes({
  legend,
  fields,
  chosen,
  onChange,
}: {
  legend: string;
  fields: Fields;
  chosen: readonly string[];
  onChange: (chosen: string[]) => void;
}) {
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">{legend}</legend>
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        {fields.map(({ name, label }) => (
          <Box
            key={name}
            label={label}
            checked={chosen.includes(name)}
            onChange={(on) => onChange(on ? [...chosen, name] : chosen.filter((other) => other !== name))}
          />
        ))}
      </div>
    </fieldset>
  );
}

function Box({ label, checked, onChange }: { label: string; checked: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-1.5">
      <input
        type="checkbox"
        className="accent-plum"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}

function FileButtons({ slug, list, onClose }: { slug: string; list: CounterpartList; onClose: () => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [sure, setSure] = useState(false);
  const replace = useReplaceFile(slug, list.name);
  const forget = useForgetList(slug);
  const navigate = useNavigate();
  const fail = (error: Error) => notify(error, true);
  const take = (file: File | undefined) =>
    file &&
    replace.mutate(file, {
      onSuccess: () => {
        notify("The newer file is taken; what was said of rows stays. Look them up again.");
        onClose();
      },
      onError: fail,
    });
  const remove = () =>
    forget.mutate(list.name, { onSuccess: () => navigate(`/r/${slug}/counterparts`), onError: fail });
  return (
    <>
      <input
        ref={input}
        type="file"
        className="sr-only"
        tabIndex={-1}
        aria-label="Newer file"
        onChange={(event) => take(event.target.files?.[0])}
      />
      <Button onClick={() => input.current?.click()}>Take a newer file…</Button>
      <Button onClick={() => (sure ? remove() : setSure(true))}>
        {sure ? "Yes, remove the list and all that was said" : "Remove the list…"}
      </Button>
    </>
  );
}
