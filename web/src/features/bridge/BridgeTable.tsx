import { useState } from "react";
import { Link } from "react-router";
import { nameOf } from "../../domain/format";
import { Button, CELL, Empty, Heads, notify, useKeys } from "../../ui";
import { MapByHand } from "./MapByHand";
import { type Between, type BridgeRow, useMap } from "./queries";

const ACT = "px-2 font-medium text-plum hover:underline";

interface Props {
  slug: string;
  between: Between;
  rows: readonly BridgeRow[];
  more: boolean;
  onMore: () => void;
}

/** Records of one source with their partners in the other; the marked one is confirmed, refused or mapped by key. */
export function BridgeTable({ slug, between, rows, more, onMore }: Props) {
  const [at, setAt] = useState(0);
  const [mapping, setMapping] = useState(0);
  const map = useMap(slug);
  const place = Math.min(at, rows.length - 1);
  const row = rows[place];
  const move = (next: number) => {
    setAt(Math.max(0, Math.min(rows.length - 1, next)));
    if (next > rows.length - 10 && more) onMore();
  };
  const tell = (of: BridgeRow | undefined, partner: number | undefined, verdict: "same" | "different") => {
    if (!of || !partner) return;
    map.mutate(
      { pair: [of.record_id, partner], verdict },
      { onSuccess: () => setMapping(0), onError: (error) => notify(error, true) },
    );
  };
  useKeys([
    { key: "ArrowDown", label: "Next record", run: () => move(place + 1) },
    { key: "ArrowUp", label: "Previous record", run: () => move(place - 1) },
    { key: "c", needs: "decide", label: "Confirm the partner", run: () => tell(row, row?.partner_ids[0], "same") },
    { key: "n", needs: "decide", label: "Not the partner", run: () => tell(row, row?.partner_ids[0], "different") },
    { key: "f", label: "Find a partner by hand", run: () => row && setMapping(row.record_id) },
  ]);
  if (rows.length === 0) return <Empty title={more ? "Looking through the records…" : "No record stands here."} />;
  return (
    <>
      <table className="w-full text-sm">
        <thead>
          <Heads
            titles={[`${between.one} id`, "Name", `${between.other} id`, "Name there", "Golden record", "State", ""]}
            unseen="What to do"
          />
        </thead>
        <tbody>
          {rows.map((one, number) => (
            <tr
              key={one.record_id}
              aria-current={number === place ? "true" : undefined}
              onFocus={() => setAt(number)}
              className={number === place ? "bg-plum-wash shadow-[inset_3px_0_0_var(--plum)]" : ""}
            >
              <td className={`${CELL} font-mono`}>{one.source_key}</td>
              <td className={CELL}>{nameOf(one.fields)}</td>
              <td className={`${CELL} font-mono`}>{one.partners.join(", ") || "–"}</td>
              <td className={CELL}>{one.partner_names.join("; ")}</td>
              <td className={`${CELL} font-mono`}>
                {one.golden_key && (
                  <Link to={`/r/${slug}/golden/${one.golden_key}`} className="text-plum hover:underline">
                    {one.golden_key}
                  </Link>
                )}
              </td>
              <td className={CELL}>{one.state}</td>
              <td className={`${CELL} text-right`}>
                <RowActions slug={slug} row={one} onTell={tell} onMap={() => setMapping(one.record_id)} />
                {mapping === one.record_id && (
                  <MapByHand
                    slug={slug}
                    source={between.other}
                    onLink={(record) => tell(one, record, "same")}
                    onClose={() => setMapping(0)}
                  />
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {more && (
        <Button className="my-3" onClick={onMore}>
          Further records
        </Button>
      )}
    </>
  );
}

function RowActions({
  slug,
  row,
  onTell,
  onMap,
}: {
  slug: string;
  row: BridgeRow;
  onTell: (row: BridgeRow, partner: number | undefined, verdict: "same" | "different") => void;
  onMap: () => void;
}) {
  const [first] = row.partner_ids;
  return (
    <span className="flex justify-end gap-1">
      {first !== undefined && (
        <Link
          to={`/r/${slug}/review/${Math.min(row.record_id, first)}/${Math.max(row.record_id, first)}`}
          className="self-center px-2 text-plum hover:underline"
        >
          Face to face
        </Link>
      )}
      {row.state === "proposed" && (
        <button type="button" className={ACT} onClick={() => onTell(row, first, "same")}>
          Confirm
        </button>
      )}
      {row.state === "none" && (
        <button type="button" className={ACT} onClick={onMap}>
          Map by hand…
        </button>
      )}
    </span>
  );
}
