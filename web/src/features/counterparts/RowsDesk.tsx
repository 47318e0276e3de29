import { useState } from "react";
import { useSearchParams } from "react-router";
import { Empty, Faces, type KeyBinding, notify, useKeys } from "../../ui";
import { type CounterpartList, type RowsAsked, type Said, useRows, useSay } from "./queries";
import { RowList } from "./RowList";
import { RowView } from "./RowView";

/** The rows asked for, and the one in view; everything can be said by key, and the next row comes by itself. */
export function RowsDesk({ slug, list, asked }: { slug: string; list: CounterpartList; asked: RowsAsked }) {
  const [params, setParams] = useSearchParams();
  const [finding, setFinding] = useState(false);
  const query = useRows(slug, list.name, asked);
  const say = useSay(slug, list.name);
  const rows = query.data?.pages.flatMap((page) => page.rows) ?? [];
  const at = rows.findIndex(({ number }) => `${number}` === params.get("row"));
  const place = at >= 0 ? at : 0;
  const row = rows[place];
  const show = (next: number) => {
    const chosen = rows[Math.max(0, Math.min(rows.length - 1, next))];
    if (!chosen) return;
    setFinding(false);
    setParams(
      (present) => {
        present.set("row", `${chosen.number}`);
        return present;
      },
      { replace: true },
    );
    if (next > rows.length - 20 && query.hasNextPage && !query.isFetchingNextPage) void query.fetchNextPage();
  };
  const tell = (said: Said | null) => {
    if (!row?.key) return;
    const next = rows[place + 1] ?? rows[place - 1];
    say.mutate({ key: row.key, said }, { onError: (error) => notify(error, true) });
    if (said && next) show(rows.indexOf(next));
  };
  const confirm = (rank: number) => {
    const one = row?.candidates[rank];
    if (one) tell({ verdict: "confirmed", record_id: one.of.record_id });
  };
  const reject = () => {
    const one = row?.candidates.find(({ rejected }) => !rejected);
    if (one) tell({ verdict: "rejected", record_id: one.of.record_id });
  };
  const bindings: KeyBinding[] = [
    { key: "ArrowDown", label: "Next row", run: () => show(place + 1) },
    { key: "ArrowUp", label: "Previous row", run: () => show(place - 1) },
    ...[1, 2, 3, 4, 5].map((rank) => ({
      key: `${rank}`,
      needs: "pair up" as const,
      label: `Candidate ${rank} is the counterpart`,
      run: () => confirm(rank - 1),
    })),
    { key: "0", needs: "pair up", label: "The row has no counterpart", run: () => tell({ verdict: "nobody" }) },
    { key: "x", needs: "pair up", label: "The best candidate is not the counterpart", run: reject },
    { key: "f", label: "Find another record", run: () => setFinding(true) },
    { key: "u", needs: "pair up", label: "Take back what was said of the row", run: () => tell(null) },
  ];
  useKeys(bindings);
  return (
    <Faces query={query}>
      {() =>
        row ? (
          <div className="grid min-h-0 flex-1 grid-cols-[22rem_minmax(0,1fr)]">
            <RowList
              rows={rows}
              place={place}
              nameColumns={nameColumns(list)}
              onOpen={show}
              onEnd={() => query.hasNextPage && !query.isFetchingNextPage && void query.fetchNextPage()}
            />
            <RowView
              slug={slug}
              list={list}
              row={row}
              finding={finding}
              onFind={setFinding}
              onSay={tell}
              busy={say.isPending}
            />
          </div>
        ) : (
          <Empty title="No row is left here." />
        )
      }
    </Faces>
  );
}

/** The columns of the file that hold names, by which a row is known in the list. */
function nameColumns(list: CounterpartList): string[] {
  const named = list.mapping
    .filter(({ field, column }) => field.startsWith("name") && column)
    .map(({ column }) => column);
  return named.length > 0 ? named : list.columns.slice(0, 1);
}
