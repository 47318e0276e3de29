import { moment } from "../../domain/format";
import { Button, CELL, Empty, Heads } from "../../ui";
import type { Entry } from "./queries";

interface Props {
  entries: readonly Entry[];
  chosen: number;
  onChoose: (entry: number) => void;
  more: boolean;
  busy: boolean;
  onMore: () => void;
}

/** Entries, newest first; one that is pressed opens beside them. */
export function EntryTable({ entries, chosen, onChoose, more, busy, onMore }: Props) {
  return (
    <>
      {entries.length === 0 ? (
        <Empty title={more ? "Nothing like that among the latest." : "Nothing like that was done."} />
      ) : (
        <table className="w-full text-sm">
          <thead>
            <Heads titles={["When", "By", "Act", "What"]} />
          </thead>
          <tbody>
            {entries.map(({ id, at, actor, kind, summary }, place) => {
              const here = id === chosen || (chosen === 0 && place === 0);
              return (
                <tr key={id} className={here ? "bg-plum-wash" : ""}>
                  <td className={`${CELL} whitespace-nowrap`}>{moment(at)}</td>
                  <td className={`${CELL} whitespace-nowrap`}>{actor}</td>
                  <td className={`${CELL} text-soft`}>{kind}</td>
                  <td className={CELL}>
                    <button
                      type="button"
                      aria-current={here}
                      onClick={() => onChoose(id)}
                      className="text-left hover:underline"
                    >
                      {summary}
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {more && (
        <div className="py-3 text-center">
          <Button disabled={busy} onClick={onMore}>
            Look further back
          </Button>
        </div>
      )}
    </>
  );
}
