import { counted } from "../../../domain/format";
import type { Step, StepKind } from "../../../domain/tidySteps";
import { Button, Choice, type Option } from "../../../ui";

interface Props {
  number: number;
  last: boolean;
  step: Step;
  kind: StepKind | undefined;
  changed: number | undefined;
  fields: readonly Option<string>[];
  tables: readonly string[];
  onChange: (step: Step) => void;
  onMove: (by: -1 | 1) => void;
  onRemove: () => void;
  onByExample: () => void;
}

const BOX = "h-8 rounded-[3px] border border-line-strong bg-sheet px-2 text-sm";

/** One step: what it does, its parameters, and how many records it changes. */
export function StepRow(props: Props) {
  const { number, last, step, kind, changed, fields, tables, onChange, onMove, onRemove, onByExample } = props;
  const set = (name: string, value: string) => onChange({ ...step, [name]: value });
  const tableOptions = tables.map((name) => ({ value: name, label: name }));
  return (
    <li className="border-b border-line py-2">
      <div className="flex items-center gap-1 text-sm">
        <span className="w-5 text-right font-mono text-soft">{number}</span>
        <span className="ml-1 flex-1 font-medium">{kind?.says ?? step.do}</span>
        <span className="text-xs text-soft">
          {changed === undefined ? "" : `changes ${counted(changed, "record")}`}
        </span>
        <Button
          look="quiet"
          small
          className="!px-1.5"
          aria-label={`Move step ${number} up`}
          disabled={number === 1}
          onClick={() => onMove(-1)}
        >
          ↑
        </Button>
        <Button
          look="quiet"
          small
          className="!px-1.5"
          aria-label={`Move step ${number} down`}
          disabled={last}
          onClick={() => onMove(1)}
        >
          ↓
        </Button>
        <Button look="quiet" small className="!px-1.5" aria-label={`Remove step ${number}`} onClick={onRemove}>
          ×
        </Button>
      </div>
      {kind && kind.parameters.length > 0 && (
        <div className="mt-1 ml-6 flex flex-wrap items-center gap-x-3 gap-y-1 text-sm">
          {kind.parameters.map((parameter) => {
            const label = `${parameter.label} of step ${number}`;
            const value = step[parameter.name] ?? "";
            const options =
              parameter.ask === "field"
                ? fields
                : parameter.ask === "table"
                  ? tableOptions
                  : parameter.choices.map((choice) => ({ value: choice, label: choice }));
            return (
              <span key={parameter.name} className="flex items-center gap-1.5">
                <span className="text-soft">{parameter.label}</span>
                {["field", "table", "choice"].includes(parameter.ask) ? (
                  <Choice
                    label={label}
                    value={value}
                    options={options}
                    onChange={(next) => set(parameter.name, next)}
                  />
                ) : (
                  <input
                    aria-label={label}
                    value={value}
                    spellCheck={false}
                    onChange={(event) => set(parameter.name, event.target.value)}
                    className={`${BOX} font-mono ${parameter.ask === "number" ? "w-14" : parameter.name === "pattern" ? "w-52" : "w-24"}`}
                  />
                )}
              </span>
            );
          })}
          {"pattern" in step && (
            <Button look="quiet" small className="px-0" onClick={onByExample}>
              From marked examples…
            </Button>
          )}
        </div>
      )}
    </li>
  );
}
