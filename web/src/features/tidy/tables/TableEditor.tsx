import { useRef, useState } from "react";
import { counted, moment } from "../../../domain/format";
import { Button, HEAD, notify, Pane, Search, Trouble } from "../../../ui";
import { type Entry, entriesOfFile, type Table, useSaveTable } from "./queries";
import { TableUsage } from "./TableUsage";

/** More rows than this are found by searching. */
const SHOWN = 200;
const ROW = "border-b border-line px-1 py-0.5";
const BOX = "h-7 w-full rounded-[3px] border border-line bg-sheet px-2 text-sm";

interface RowsProps {
  entries: readonly Entry[];
  search: string;
  onChange: (entries: Entry[]) => void;
}

function Rows({ entries, search, onChange }: RowsProps) {
  const wanted = search.toLowerCase();
  const fitting = entries
    .map((entry, place) => ({ entry, place }))
    .filter(({ entry }) => entry.some((text) => text.toLowerCase().includes(wanted)));
  const set = (place: number, entry: Entry) => onChange(entries.map((item, at) => (at === place ? entry : item)));
  return (
    <>
      <table className="w-full text-sm">
        <thead>
          <tr>
            <th scope="col" className={HEAD}>
              This
            </th>
            <th scope="col" className={HEAD}>
              becomes
            </th>
            <th scope="col" className={`${HEAD} w-8`}>
              <span className="sr-only">Remove</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {fitting.slice(0, SHOWN).map(({ entry: [source, target], place }) => (
            <tr key={place}>
              <td className={ROW}>
                <input
                  aria-label={`This, entry ${place + 1}`}
                  value={source}
                  onChange={(event) => set(place, [event.target.value, target])}
                  className={BOX}
                />
              </td>
              <td className={ROW}>
                <input
                  aria-label={`Becomes, entry ${place + 1}`}
                  value={target}
                  onChange={(event) => set(place, [source, event.target.value])}
                  className={BOX}
                />
              </td>
              <td className={ROW}>
                <Button
                  look="quiet"
                  small
                  className="px-1.5!"
                  aria-label={`Remove entry ${place + 1}`}
                  onClick={() => onChange(entries.filter((_, at) => at !== place))}
                >
                  ×
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {fitting.length > SHOWN && (
        <p className="py-2 text-sm text-soft">
          {counted(fitting.length - SHOWN, "more entry", "more entries")}: search to see them.
        </p>
      )}
    </>
  );
}

/** The entries of one table, changed here and saved as a new version; beside it what it touches. */
export function TableEditor({ slug, table }: { slug: string; table: Table }) {
  const [entries, setEntries] = useState<Entry[]>(table.entries);
  const [search, setSearch] = useState("");
  const file = useRef<HTMLInputElement>(null);
  const save = useSaveTable(slug, table.name);
  const latest = table.versions[0];
  const changed = JSON.stringify(entries) !== JSON.stringify(table.entries);
  const bringIn = async (chosen: File | undefined) => {
    if (!chosen) return;
    try {
      const read = await entriesOfFile(table.name, chosen);
      const known = new Set(read.map(([source]) => source.toLowerCase()));
      setEntries([...entries.filter(([source]) => !known.has(source.toLowerCase())), ...read]);
      notify(`${counted(read.length, "entry", "entries")} read; look at them, then save.`);
    } catch (error) {
      notify(error instanceof Error ? error.message : String(error), true);
    }
  };
  return (
    <div className="grid h-full min-h-0 grid-cols-[1fr_22rem]">
      <div className="flex min-h-0 flex-col">
        <div className="flex flex-wrap items-center gap-2 border-b border-line px-4 py-2 text-sm">
          <h2 className="font-semibold">{table.name}</h2>
          <span className="text-soft">
            {table.kind}, {counted(entries.length, "entry", "entries")}, version {table.version}
            {latest && ` by ${latest.actor}, ${moment(latest.at)}`}
          </span>
          <span className="ml-auto flex items-center gap-2">
            <input
              ref={file}
              type="file"
              className="sr-only"
              tabIndex={-1}
              aria-label="File with entries"
              onChange={(event) => {
                void bringIn(event.target.files?.[0]);
                event.target.value = "";
              }}
            />
            <Button needs="tidy" everywhere onClick={() => file.current?.click()}>
              Read a file…
            </Button>
            <a
              className="inline-flex h-8 items-center rounded-[3px] border border-line-strong bg-sheet px-2.5 font-medium hover:bg-plum-wash"
              href={`/api/tables/${encodeURIComponent(table.name)}/export.csv`}
            >
              Download as CSV
            </a>
          </span>
        </div>
        <div className="flex items-center gap-2 px-4 py-2">
          <Search label="Search entries" value={search} onChange={setSearch} />
          <Button onClick={() => setEntries([["", ""], ...entries])}>Add an entry</Button>
          <span className="ml-auto flex gap-2">
            {changed && <Button onClick={() => setEntries(table.entries)}>Back to what is saved</Button>}
            <Button
              needs="tidy"
              everywhere
              look="main"
              disabled={!changed || save.isPending}
              onClick={() =>
                save.mutate(
                  { entries: entries.filter(([source]) => source.trim()), seen_version: table.version, note: "" },
                  { onSuccess: (saved) => notify(`${saved.name} is version ${saved.version} now.`) },
                )
              }
            >
              Save as version {table.version + 1}
            </Button>
          </span>
        </div>
        {save.error && (
          <div className="px-4">
            <Trouble error={save.error} />
          </div>
        )}
        <Pane label="Entries" className="flex-1 px-4">
          <Rows entries={entries} search={search} onChange={setEntries} />
        </Pane>
      </div>
      <Pane label="What it touches" className="border-l border-line px-4">
        <TableUsage
          slug={slug}
          table={table}
          onTake={(value, nearest) => {
            setSearch("");
            setEntries([[value, nearest], ...entries]);
          }}
        />
      </Pane>
    </div>
  );
}
