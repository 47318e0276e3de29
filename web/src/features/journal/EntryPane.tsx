import { Link } from "react-router";
import { count, moment } from "../../domain/format";
import { beforeAndAfter } from "../../domain/journal";
import { Faces, Pane } from "../../ui";
import { type Sought, useWholeEntry, type WholeEntry } from "./queries";

interface Props {
  slug: string;
  entryId: number;
  onFind: (changed: Partial<Sought>) => void;
}

/** An entry in full: who, when, before and after, what it moved, what it rests on and what took it back. */
export function EntryPane({ slug, entryId, onFind }: Props) {
  const query = useWholeEntry(slug, entryId);
  return (
    <Pane label="The entry" className="border-l border-line bg-sheet px-4 py-3 text-sm">
      {entryId > 0 && (
        <Faces query={query} rows={5}>
          {(found) => <Whole slug={slug} found={found} onFind={onFind} />}
        </Faces>
      )}
    </Pane>
  );
}

function Whole({ slug, found, onFind }: { slug: string; found: WholeEntry; onFind: Props["onFind"] }) {
  const { entry } = found;
  const { changes, rest } = beforeAndAfter(found.data, found.values);
  return (
    <div className="space-y-3">
      <div>
        <h2 className="font-semibold">{entry.summary}</h2>
        <p className="text-soft">{`${entry.actor}, ${moment(entry.at)}: ${entry.kind}, number ${count(entry.position)}`}</p>
        {found.values === null && <p className="text-rust">Its words and values were erased; its seal holds.</p>}
        {entry.undoes !== null && (
          <p>
            Takes back <Step slug={slug} id={entry.undoes} />.
          </p>
        )}
        {found.undone_by.map((id) => (
          <p key={id} className="text-rust">
            Taken back by <Step slug={slug} id={id} />.
          </p>
        ))}
        {found.rests_on.map((id) => (
          <p key={id}>
            Rests on <Step slug={slug} id={id} />.
          </p>
        ))}
      </div>
      {changes.length > 0 && (
        <table className="w-full">
          <thead>
            <tr className="text-left text-xs text-soft">
              <th scope="col" className="pr-2">
                Changed
              </th>
              <th scope="col">Before</th>
              <th scope="col">After</th>
            </tr>
          </thead>
          <tbody>
            {changes.map(({ name, before, after }) => (
              <tr key={name} className="align-top">
                <th scope="row" className="pr-2 text-left font-normal text-soft">
                  {name}
                </th>
                <td className="pr-2 break-words whitespace-pre-wrap">{before}</td>
                <td className="font-medium break-words whitespace-pre-wrap">{after}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {rest.length > 0 && (
        <dl className="grid grid-cols-[7rem_minmax(0,1fr)] gap-y-0.5">
          {rest.map(({ name, value }) => (
            <div key={name} className="contents">
              <dt className="text-soft">{name}</dt>
              <dd className="max-h-40 overflow-auto break-words whitespace-pre-wrap">{value}</dd>
            </div>
          ))}
        </dl>
      )}
      <About slug={slug} found={found} onFind={onFind} />
      <p className="font-mono text-xs break-all text-soft">{entry.hash}</p>
    </div>
  );
}

function Step({ slug, id }: { slug: string; id: number }) {
  return (
    <Link className="text-plum underline" to={`/r/${slug}/journal?entry=${id}`}>
      entry {id}
    </Link>
  );
}

function About({ slug, found, onFind }: { slug: string; found: WholeEntry; onFind: Props["onFind"] }) {
  return (
    <>
      {found.golden.map((key) => (
        <p key={key}>
          <Link className="font-mono text-plum underline" to={`/r/${slug}/golden/${key}`}>
            {key}
          </Link>{" "}
          <button type="button" className="text-plum underline" onClick={() => onFind({ golden_key: key })}>
            all about it
          </button>
        </p>
      ))}
      {found.records.map(({ id, source, source_key }) => (
        <p key={id}>
          {`${source} ${source_key}`}{" "}
          <button type="button" className="text-plum underline" onClick={() => onFind({ record: String(id) })}>
            all about it
          </button>
        </p>
      ))}
      {found.moved.length > 0 && (
        <table className="w-full">
          <thead>
            <tr className="text-left text-xs text-soft">
              <th scope="col">{`Moved (${count(found.moves)})`}</th>
              <th scope="col">From</th>
              <th scope="col">To</th>
            </tr>
          </thead>
          <tbody>
            {found.moved.map(({ source, source_key, from_key, to_key }) => (
              <tr key={`${source} ${source_key}`}>
                <td>{`${source} ${source_key}`}</td>
                <td className="font-mono text-xs">{from_key || "–"}</td>
                <td className="font-mono text-xs">{to_key || "–"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
