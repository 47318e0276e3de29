import { type Tab, Tabs } from "../../ui";
import { OUTCOMES } from "./queries";

const SAYS: Record<string, string> = {
  matched: "one sure counterpart",
  several: "several records fit about as well",
  unsure: "one fits, but not surely",
  none: "no record of the register fits",
  rejected: "the row is no record",
};

type Chosen = "" | (typeof OUTCOMES)[number] | "by hand" | "register";

/** The outcomes with their counts, each of which shows its rows. */
export function OutcomeTabs({
  counts,
  chosen,
  onChoose,
}: {
  counts: Record<string, number>;
  chosen: string;
  onChoose: (tab: Chosen) => void;
}) {
  const all = Object.values(counts).reduce((sum, value) => sum + value, 0);
  const tabs: Tab<Chosen>[] = [
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
    <div className="border-b border-line px-4 pt-1">
      <Tabs label="Outcomes" tabs={tabs} chosen={chosen} onChoose={onChoose} />
    </div>
  );
}
