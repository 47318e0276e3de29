import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import { bits, counted } from "../../domain/format";
import type { Queued } from "./queries";

const ROW_PX = 58;

/** What a doubt waits for, if it was put off. */
function waitsFor({ put_off, until, asked }: Queued): string {
  if (!put_off) return "";
  return [asked && `asks ${asked}`, until && `until ${until}`].filter(Boolean).join(", ") || "later";
}

function Row({ doubt, here, onOpen }: { doubt: Queued; here: boolean; onOpen: () => void }) {
  const isCluster = doubt.what === "cluster";
  return (
    <button
      type="button"
      aria-current={here ? "true" : undefined}
      title={doubt.kind_says}
      onClick={onOpen}
      className={`flex h-full w-full items-center gap-2 border-b border-line px-3 text-left text-sm ${
        here ? "bg-plum-wash shadow-[inset_3px_0_0_var(--plum)]" : "hover:bg-sunk"
      }`}
    >
      <span className="min-w-0 flex-1">
        <span className="block truncate">{doubt.left_name}</span>
        <span className={`block truncate ${isCluster ? "text-soft" : ""}`}>
          {isCluster ? `cluster of ${counted(doubt.records, "record")}` : doubt.right_name}
        </span>
      </span>
      <span className="max-w-24 text-right font-mono text-xs text-soft">
        {bits(doubt.score)}
        {doubt.put_off && <span className="block truncate font-sans">{waitsFor(doubt)}</span>}
        {doubt.changed.length > 0 && <span className="block font-sans text-rust">changed</span>}
      </span>
    </button>
  );
}

/** What waits; only what is in sight is in the page. */
export function QueueList({
  doubts,
  place,
  onOpen,
}: {
  doubts: readonly Queued[];
  place: number;
  onOpen: (doubt: Queued) => void;
}) {
  const scroller = useRef<HTMLElement>(null);
  const rows = useVirtualizer({
    count: doubts.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 8,
  });
  useEffect(() => {
    if (place >= 0 && place < doubts.length) rows.scrollToIndex(place, { align: "auto" });
  }, [rows, place, doubts.length]);
  return (
    <section
      ref={scroller}
      aria-label="What waits"
      tabIndex={0}
      className="min-h-0 flex-1 overflow-auto border-r border-line"
    >
      <ol className="relative" style={{ height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map((item) => {
          const doubt = doubts[item.index];
          if (!doubt) return null;
          return (
            <li
              key={`${doubt.what}-${doubt.left_id}-${doubt.right_id}`}
              className="absolute inset-x-0"
              style={{ height: ROW_PX, top: item.start }}
            >
              <Row doubt={doubt} here={item.index === place} onOpen={() => onOpen(doubt)} />
            </li>
          );
        })}
      </ol>
    </section>
  );
}
