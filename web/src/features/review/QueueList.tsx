import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import { bits } from "../../domain/format";
import type { QueuedPair } from "./queries";

const ROW_PX = 58;

/** The waiting pairs; only those in sight are in the page. */
export function QueueList({
  pairs,
  place,
  onOpen,
}: {
  pairs: readonly QueuedPair[];
  place: number;
  onOpen: (pair: QueuedPair) => void;
}) {
  const scroller = useRef<HTMLElement>(null);
  const rows = useVirtualizer({
    count: pairs.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 8,
  });
  useEffect(() => {
    if (place >= 0 && place < pairs.length) rows.scrollToIndex(place, { align: "auto" });
  }, [rows, place, pairs.length]);
  return (
    <section
      ref={scroller}
      aria-label="Pairs in doubt"
      tabIndex={0}
      className="min-h-0 overflow-auto border-r border-line"
    >
      <ol className="relative" style={{ height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map((item) => {
          const pair = pairs[item.index];
          if (!pair) return null;
          const here = item.index === place;
          return (
            <li
              key={`${pair.left_id}-${pair.right_id}`}
              className="absolute inset-x-0"
              style={{ height: ROW_PX, top: item.start }}
            >
              <button
                type="button"
                aria-current={here ? "true" : undefined}
                onClick={() => onOpen(pair)}
                className={`flex h-full w-full items-center gap-2 border-b border-line px-3 text-left text-sm ${
                  here ? "bg-plum-wash shadow-[inset_3px_0_0_var(--plum)]" : "hover:bg-sunk"
                }`}
              >
                <span className="min-w-0 flex-1">
                  <span className="block truncate">{pair.left_name}</span>
                  <span className="block truncate">{pair.right_name}</span>
                </span>
                <span className="text-right font-mono text-xs text-soft">
                  {bits(pair.score)}
                  {pair.put_off && <span className="block font-sans">later</span>}
                </span>
              </button>
            </li>
          );
        })}
      </ol>
    </section>
  );
}
