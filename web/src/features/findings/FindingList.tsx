import { useEffect, useRef } from "react";
import { nameOf } from "../../domain/format";
import type { Finding } from "./queries";

const group = ({ things: [first] }: Finding) => (first ? `${first.title}: ${first.value}` : "");

/** Findings under what they share; the one in view is marked. */
export function FindingList({
  findings,
  place,
  onOpen,
}: {
  findings: readonly Finding[];
  place: number;
  onOpen: (place: number) => void;
}) {
  const here = useRef<HTMLButtonElement>(null);
  // The list follows the keys: which finding is in view is all that this hangs on.
  // Browsers differ in whether scrolling gives a promise, which no effect may return.
  useEffect(() => {
    here.current?.scrollIntoView?.({ block: "nearest" });
  }, [place]);
  return (
    <section aria-label="Findings" tabIndex={0} className="min-h-0 overflow-auto border-r border-line">
      <ol>
        {findings.map((finding, at) => {
          const previous = findings[at - 1];
          const fresh = !previous || group(previous) !== group(finding);
          const isHere = at === place;
          return (
            <li key={finding.place}>
              {fresh && (
                <p className="border-b border-line bg-sunk px-3 py-1 text-xs text-soft">
                  <strong className="font-semibold text-ink">{finding.things[0]?.title}</strong>{" "}
                  {finding.things[0]?.value}
                </p>
              )}
              <button
                ref={isHere ? here : null}
                type="button"
                aria-current={isHere ? "true" : undefined}
                onClick={() => onOpen(at)}
                className={`flex w-full items-center gap-2 border-b border-line px-3 py-1.5 text-left text-sm ${
                  isHere ? "bg-plum-wash shadow-[inset_3px_0_0_var(--plum)]" : "hover:bg-sunk"
                }`}
              >
                <span className="min-w-0 flex-1">
                  <span className="block truncate text-marine">{nameOf(finding.one.values)}</span>
                  <span className="block truncate text-rust">{nameOf(finding.other.values)}</span>
                </span>
                <span className="text-right text-xs text-soft">
                  {finding.state}
                  {finding.again && <span className="block text-rust">again</span>}
                </span>
              </button>
            </li>
          );
        })}
      </ol>
    </section>
  );
}
