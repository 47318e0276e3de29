import { useState } from "react";
import type { Place } from "../../../domain/planText";
import { Button } from "../../../ui";
import type { Words } from "../draft/queries";
import type { Editing } from "./editing";
import { DropButton, NumberInput, TextInput, WordChoice } from "./inputs";
import { LargestBlocks } from "./LargestBlocks";

interface Props {
  slug: string;
  edit: Editing;
  words: Words | undefined;
  place?: Place;
}

/** Which records meet: the keys, each to be changed or left out, how large blocks may be, and which sources. */
export function BlockingPart({ slug, edit, words, place = ["blocking"] }: Props) {
  return (
    <div className="space-y-3 text-sm">
      <KeyList
        slug={slug}
        edit={edit}
        words={words}
        place={[...place, "keys"]}
        most={edit.get([...place, "most_records"]) ?? 200}
        title="Compared are records that share one of"
      />
      <KeyList
        slug={slug}
        edit={edit}
        words={words}
        place={[...place, "narrow_by"]}
        most={Number.POSITIVE_INFINITY}
        title="Blocks that are too large are narrowed by"
      />
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <span>
          large is over{" "}
          <NumberInput
            label="Most records of a block"
            step={10}
            value={edit.get([...place, "most_records"])}
            usual={200}
            onSet={(value) => edit.set([...place, "most_records"], value)}
          />{" "}
          records
        </span>
        <span>
          every pair up to{" "}
          <NumberInput
            label="Every pair up to so many pairs"
            step={100000}
            width="w-28"
            value={edit.get([...place, "every_pair_up_to"])}
            usual={0}
            onSet={(value) => edit.set([...place, "every_pair_up_to"], value)}
          />{" "}
          pairs
        </span>
        <span className="flex items-center gap-2">
          sources:
          <WordChoice
            label="Which sources meet"
            value={edit.get<string>([...place, "scope"]) ?? "all"}
            words={["all", "across sources", "within sources"]}
            onSet={(value) => edit.set([...place, "scope"], value)}
          />
        </span>
      </div>
    </div>
  );
}

function KeyList({ slug, edit, words, place, most, title }: Props & { place: Place; most: number; title: string }) {
  const [seen, setSeen] = useState("");
  const [field, setField] = useState("");
  const [take, setTake] = useState("whole");
  const keys = edit.get<string[]>(place) ?? [];
  const fields = words?.fields.map(({ name }) => name) ?? [];
  const expression = take === "whole" ? field : `${field}|${take}`;
  return (
    <fieldset className="min-w-0">
      <legend className="mb-1 text-soft">{title}</legend>
      <ul className="space-y-1">
        {keys.map((key, number) => (
          <li key={key}>
            <div className="flex items-center gap-1">
              <TextInput
                label={`Key ${number + 1}`}
                value={key}
                onSet={(value) => edit.set([...place, number], value)}
                width="flex-1 font-mono text-xs"
              />
              <button
                type="button"
                aria-expanded={seen === key}
                onClick={() => setSeen(seen === key ? "" : key)}
                className="h-7 px-1.5 text-xs font-medium text-plum hover:underline"
              >
                largest blocks
              </button>
              <DropButton label={`Leave out ${key}`} onDrop={() => edit.drop([...place, number])} />
            </div>
            {seen === key && <LargestBlocks slug={slug} expression={key} most={most} />}
          </li>
        ))}
      </ul>
      <div className="mt-1 flex items-center gap-2">
        <WordChoice label="Field of a new key" value={field} words={fields} onSet={setField} />
        <WordChoice
          label="What is taken of it"
          value={take}
          words={Object.keys(words?.takers ?? { whole: "" })}
          onSet={setTake}
        />
        <Button disabled={!field || keys.includes(expression)} onClick={() => edit.add(place, expression)}>
          Add key
        </Button>
        {words?.takers[take] && <span className="text-xs text-soft">{words.takers[take]}</span>}
      </div>
    </fieldset>
  );
}
