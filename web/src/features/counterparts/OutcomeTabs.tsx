import { count } from "../../domain/format";
import { OUTCOMES } from "./queries";

const SAYS: Record<string, string> = {
  matched: "one sure counterpart",
  several: "several records fit about as well",
  unsure: "one fits, but not surely",
  none: "no record of the register fits",
  rejected: "the row is no record",
};

type Tab = "" | (typeof OUTCOMES)[number] | "by hand" | "register";

/** The outcomes with their counts, each of which shows its rows. */
export function OutcomeTabs({
  counts,
  chosen,
  onChoose,
}: {
  counts: Record<string, number>;
  chosen: string;
  onChoose: (tab: Tab) => void;
}) {
  const all = Object.values(counts).reduce((sum, value) => sum + value, 0);
  const tabs: { tab: Tab; label: string; title: string; figure?: number }[] = [
    { tab: "", label: "all rows", title: "all rows of the file", figure: all },
    ...OUTCOMES.map((outcome) => ({
      tab: outcome,
      label: outcome,
      title: SAYS[outcome] ?? "",
      figure: counts[outcome] ?? 0,
    })),
    { tab: "by hand", label: "settled by hand", title: "rows of which a person said what they mean" },
    { tab: "register", label: "in the register only", title: "golden records that no matched row means" },
  ];
  return (
    <nav aria-label="Outcomes" className="flex flex-wrap gap-1 border-b border-line px-4 pt-1">
      {tabs.map(({ tab, label, title, figure }) => (
        <button
          key={label}
          type="button"
          title={title}
          aria-pressed={chosen === tab}
          onClick={() => onChoose(tab)}
          className={`border-b-[3px] px-2 py-1 text-sm hover:bg-plum-wash ${
            chosen === tab ? "border-plum font-semibold" : "border-transparent"
          }`}
        >
          {label}
          {figure !== undefined && <span className="ml-1.5 font-mono text-xs text-soft">{count(figure)}</span>}
        </button>
      ))}
    </nav>
  );
}
