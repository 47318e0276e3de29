import { useState } from "react";
import { Choice, notify } from "../../ui";
import { type Preview, useReadAgain } from "./queries";

/** How the file is read, where there is a choice: its sheet, the row with the column names, the list within it, its encoding. */
export function ReadingBar({ slug, preview }: { slug: string; preview: Preview }) {
  const { format, delivery } = preview;
  const again = useReadAgain(slug, delivery.id);
  const [encoding, setEncoding] = useState("");
  const read = (part: { sheet?: string; header_row?: number | null; path?: string; encoding?: string }) =>
    again.mutate(
      { sheet: format.sheet, path: format.path, header_row: null, encoding, ...part },
      { onError: (error) => notify(error, true) },
    );
  const several = (names: readonly string[]) => names.map((name) => ({ value: name, label: name || "the whole file" }));
  return (
    <div className="flex flex-wrap items-center gap-x-5 gap-y-1 text-sm">
      {format.sheets.length > 1 && (
        <span className="flex items-center gap-2">
          Sheet
          <Choice
            label="Sheet"
            value={format.sheet}
            options={several(format.sheets)}
            onChange={(sheet) => read({ sheet })}
          />
        </span>
      )}
      {format.paths.length > 1 && (
        <span className="flex items-center gap-2">
          Records at
          <Choice
            label="Records at"
            value={format.path}
            options={several(format.paths)}
            onChange={(path) => read({ path })}
          />
        </span>
      )}
      {format.encodings.length > 0 && (
        <span className="flex items-center gap-2">
          Letters in
          <Choice
            label="Letters in"
            value={format.encoding}
            options={format.encodings.map(({ name, label }) => ({ value: name, label }))}
            onChange={(chosen) => {
              setEncoding(chosen);
              read({ encoding: chosen, header_row: format.header_row });
            }}
          />
          {format.looks_misread && (
            <span className="text-rust">These letters look misread; choose another encoding if so.</span>
          )}
        </span>
      )}
      {format.header_row !== null && (
        <label className="flex items-center gap-2">
          Column names in row
          <input
            key={format.header_row}
            type="number"
            min={0}
            title="0: the file has no column names"
            defaultValue={format.header_row}
            onBlur={(event) => {
              const row = event.target.valueAsNumber;
              if (Number.isInteger(row) && row >= 0 && row !== format.header_row) read({ header_row: row });
            }}
            onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
            className="h-8 w-16 rounded-[3px] border border-line-strong bg-sheet px-2"
          />
        </label>
      )}
    </div>
  );
}
