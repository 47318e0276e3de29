import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { Button, Choice } from "../../../ui";
import { useTables } from "../tables/queries";
import type { Quality } from "./queries";

interface Props {
  fields: readonly Schemas["FieldOut"][];
  kinds: Quality["kinds"];
  onAdd: (rule: Schemas["RuleModel"]) => void;
}

/** A new rule in one line: field, what is expected of it, and what that asks for. */
export function NewRule({ fields, kinds, onAdd }: Props) {
  const tables = useTables().data?.tables ?? [];
  const [rule, setRule] = useState({ field: fields[0]?.name ?? "", kind: kinds[0]?.name ?? "", asked: "" });
  const kind = kinds.find(({ name }) => name === rule.kind);
  const fieldOptions = fields.map(({ name, label }) => ({ value: name, label }));
  const asks = kind?.asks ?? "";
  return (
    <div className="flex flex-wrap items-center gap-2 py-2 text-sm">
      <span className="text-soft">A new rule:</span>
      <Choice
        label="Field of the rule"
        value={rule.field}
        options={fieldOptions}
        onChange={(field) => setRule({ ...rule, field })}
        className="w-52"
      />
      <Choice
        label="What is expected"
        value={rule.kind}
        options={kinds.map(({ name, says }) => ({ value: name, label: says.replace("{}", "…") }))}
        onChange={(next) => setRule({ ...rule, kind: next, asked: "" })}
        className="w-60"
      />
      {asks === "text" && (
        <input
          aria-label="Shapes"
          placeholder="AA99 9AA | 9999"
          title="A capital, a small letter, 9 digit; several between bars"
          value={rule.asked}
          onChange={(event) => setRule({ ...rule, asked: event.target.value })}
          className="h-8 w-48 rounded-[3px] border border-line-strong bg-sheet px-2 font-mono text-sm placeholder:text-soft"
        />
      )}
      {asks === "table" && (
        <Choice
          label="Table"
          value={rule.asked}
          options={tables.map(({ name }) => ({ value: name, label: name }))}
          onChange={(asked) => setRule({ ...rule, asked })}
          className="w-48"
        />
      )}
      {asks === "field" && (
        <Choice
          label="Other field"
          value={rule.asked}
          options={fieldOptions.filter(({ value }) => value !== rule.field)}
          onChange={(asked) => setRule({ ...rule, asked })}
          className="w-48"
        />
      )}
      <Button needs="tidy" look="main" disabled={asks !== "" && rule.asked.trim() === ""} onClick={() => onAdd(rule)}>
        Add the rule
      </Button>
    </div>
  );
}
