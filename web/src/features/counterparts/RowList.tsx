import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import { nameOf } from "../../domain/format";
import type { Row } from "./queries";

const ROW_PX = 50;

interface Props {
  rows: readonly Row[];
  place: number;
  nameColumns: readonly string[];
  onOpen: (place: number) => void;
  onEnd: () => void;
}

/** What a row is known by: its names, else its first filled cell. */
function title(row: Row, columns: readonly string[]): string {
  const names = columns.map((column) => row.cells[column]).filter(Boolean);
  return names.join(" ") || Object.values(row.cells)[0] || row.key;
}

/** The rows asked for; only those in sight are in the page. */
export function RowList({ rows, place, nameColumns, onOpen, onEnd }: Props) {
  const scroller = useRef<HTMLElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 8,
  });
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    virtual.scrollToIndex(place, { align: "auto" });
  }, [virtual, place]);
  useEffect(() => {
    if (rows.length > 0 && last >= rows.length - 10) onEnd();
  }, [last, rows.length, onEnd]);
  return (
    <section ref={scroller} aria-label="Rows" tabIndex={0} className="min-h-0 overflow-auto border-r border-line">
      <ol className="relative" style={{ height: virtual.getTotalSize() }}>
        {items.map((item) => {
          const row = rows[item.index];
          if (!row) return null;
          const here = item.index === place;
          return (
            <li key={row.number} className="absolute inset-x-0" style={{ height: ROW_PX, top: item.start }}>
              <button
                type="button"
                aria-current={here ? "true" : undefined}
                onClick={() => onOpen(item.index)}
                className={`flex h-full w-full items-center gap-2 border-b border-line px-3 text-left text-sm ${
                  here ? "bg-plum-wash shadow-[inset_3px_0_0_var(--plum)]" : "hover:bg-sunk"
                }`}
              >
                <span className="min-w-0 flex-1">
                  <span className="block truncate">{title(row, nameColumns)}</span>
                  <span className="block truncate text-soft">
                    {row.counterpart ? nameOf(row.counterpart.values) : row.note || "–"}
                  </span>
                </span>
                <span className="text-right text-xs text-soft">
                  {row.outcome}
                  {row.said_by && <span className="block max-w-20 truncate">by {row.said_by}</span>}
                </span>
              </button>
            </li>
          );
        })}
      </ol>
    </section>
  );
}
