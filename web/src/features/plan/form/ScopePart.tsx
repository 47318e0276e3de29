import type { Place } from "../../../domain/planText";
import { Button } from "../../../ui";
import type { Words } from "../draft/queries";
import type { Editing } from "./editing";
import { DropButton, NumberInput, TextInput, WordChoice } from "./inputs";

interface Props {
  edit: Editing;
  words: Words | undefined;
  place: Place;
}

/** Which records may meet at all: incoming ones with golden ones, those since a moment, a filter on either side, one to one. */
export function ScopePart({ edit, words, place }: Props) {
  const oneToOne = edit.get<boolean>([...place, "one_to_one"]) ?? false;
  return (
    <div className="space-y-2 text-sm">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <span className="flex items-center gap-2">
          incoming records meet
          <WordChoice
            label="Incoming records meet"
            value={edit.get<string>([...place, "incoming"]) ?? "anything"}
            words={["anything", "golden records"]}
            onSet={(value) =>
              value === "anything" ? edit.drop([...place, "incoming"]) : edit.set([...place, "incoming"], value)
            }
          />
        </span>
        <label className="flex items-center gap-2">
          delivered since
          <input
            type="date"
            className="h-7 rounded-[3px] border border-line-strong bg-sheet px-1.5"
            value={(edit.get<string>([...place, "since"]) ?? "").slice(0, 10)}
            onChange={({ target: { value } }) =>
              value ? edit.set([...place, "since"], `${value}T00:00:00Z`) : edit.drop([...place, "since"])
            }
          />
        </label>
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={oneToOne}
            onChange={(event) =>
              event.target.checked ? edit.set([...place, "one_to_one"], true) : edit.drop([...place, "one_to_one"])
            }
          />
          one to one, no source has duplicates
        </label>
        {oneToOne && (
          <span>
            several where closer than{" "}
            <NumberInput
              label="Margin of several counterparts"
              width="w-16"
              value={edit.get([...place, "margin"])}
              usual={3}
              onSet={(value) =>
                value === undefined ? edit.drop([...place, "margin"]) : edit.set([...place, "margin"], value)
              }
            />{" "}
            bits
          </span>
        )}
      </div>
      <SideFilter edit={edit} words={words} place={[...place, "one_side"]} title="one record has" />
      <SideFilter edit={edit} words={words} place={[...place, "other_side"]} title="the other has" />
    </div>
  );
}

/** A filter on one side: fields, each with the values that it must have one of. */
function SideFilter({ edit, words, place, title }: Props & { title: string }) {
  const filter = edit.get<Record<string, string[]>>(place) ?? {};
  const fields = words?.fields.map(({ name }) => name) ?? [];
  const free = fields.filter((name) => !(name in filter));
  return (
    <fieldset className="flex flex-wrap items-center gap-2">
      <legend className="float-left mr-2 text-soft">{title}</legend>
      {Object.entries(filter).map(([field, values]) => (
        <span key={field} className="flex items-center gap-1">
          <span className="font-mono text-xs">{field}</span> one of
          <TextInput
            label={`Values of ${field} where ${title}`}
            value={values.join(", ")}
            width="w-36"
            onSet={(text) =>
              edit.set(
                [...place, field],
                text
                  .split(",")
                  .map((value) => value.trim())
                  .filter(Boolean),
              )
            }
          />
          <DropButton label={`No filter by ${field}`} onDrop={() => edit.drop([...place, field])} />
        </span>
      ))}
      <Button disabled={free.length === 0} onClick={() => edit.set([...place, free[0] ?? ""], ["any"])}>
        {Object.keys(filter).length > 0 ? "And…" : "Filter…"}
      </Button>
      {Object.keys(filter).length > 0 && (
        <WordChoice
          label={`Field of the last filter where ${title}`}
          value={Object.keys(filter).at(-1) ?? ""}
          words={[...Object.keys(filter).slice(-1), ...free]}
          onSet={(field) => edit.set(place, renamedLast(filter, field))}
        />
      )}
    </fieldset>
  );
}

/** The filter with its last field exchanged for another. */
function renamedLast(filter: Record<string, string[]>, field: string): Record<string, string[]> {
  const entries = Object.entries(filter);
  const last = entries.pop();
  return Object.fromEntries([...entries, [field, last?.[1] ?? []]]);
}
