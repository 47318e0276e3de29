import type { Schemas } from "../../api/client";
import { counted } from "../../domain/format";
import { Choice, Tabs } from "../../ui";
import type { Wanted } from "./queries";
import { actInWords } from "./words";

export const STATES = ["waiting", "sent back", "ended"] as const;
const LABELS = { waiting: "Waiting", "sent back": "Sent back", ended: "Ended" };

/** Which proposals are shown: in which state, of which act, whose. */
export function FilterBar({
  wanted,
  page,
  shown,
  onChange,
}: {
  wanted: Wanted;
  page: Schemas["ProposalsOut"] | undefined;
  shown: number;
  onChange: (changes: Record<string, string>) => void;
}) {
  const groups = page?.groups ?? [];
  const options = (of: "act" | "proposed_by", any: string, words: (value: string) => string) => [
    { value: "", label: any },
    ...[...new Set(groups.map((group) => group[of]))].map((value) => ({
      value,
      label: words(value),
      hint: `${groups.filter((group) => group[of] === value).reduce((sum, group) => sum + group.count, 0)}`,
    })),
  ];
  const figures = { waiting: page?.waiting, "sent back": page?.sent_back, ended: undefined };
  return (
    <div className="flex flex-wrap items-center gap-3 border-b border-line px-4 py-1">
      <Tabs
        label="Which proposals"
        tabs={STATES.map((state) => ({ tab: state, label: LABELS[state], figure: figures[state] }))}
        chosen={wanted.state}
        onChoose={(state) => onChange({ state: state === "waiting" ? "" : state, act: "", by: "" })}
      />
      <Choice
        label="What"
        value={wanted.act}
        options={options("act", "Any act", actInWords)}
        onChange={(act) => onChange({ act })}
        className="w-56"
      />
      <Choice
        label="Whose"
        value={wanted.proposed_by}
        options={options("proposed_by", "Anybody's", (name) => name)}
        onChange={(by) => onChange({ by })}
        className="w-48"
      />
      <span className="text-sm text-soft">{page && `${counted(shown, "proposal")} shown`}</span>
    </div>
  );
}
