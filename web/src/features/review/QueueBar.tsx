import { useSources } from "../../api/sources";
import { Button, Choice, Key, Search } from "../../ui";
import { KindChoice } from "./KindChoice";
import { useProgress } from "./queries";
import { ORDERS, type QueueState } from "./queueState";
import { ValueField } from "./ValueField";

interface Props {
  slug: string;
  state: QueueState;
  onChange: (values: Partial<QueueState>) => void;
  onViews: () => void;
  onFind: () => void;
  onWork: () => void;
}

const WHAT = [
  { value: "", label: "Pairs and clusters" },
  { value: "pair", label: "Pairs" },
  { value: "cluster", label: "Clusters" },
  { value: "asked", label: "What I am asked" },
  { value: "mine", label: "My work" },
  { value: "pool", label: "The common pool" },
  { value: "piece", label: "A piece of work" },
] as const;

/** What is looked at, as one choice, and as it stands in the address. */
function chosenOf({ what, asked, work }: QueueState): (typeof WHAT)[number]["value"] {
  if (asked) return "asked";
  if (work === "mine" || work === "pool") return work;
  return work ? "piece" : what;
}

/** Which doubts are looked at, and in which order. */
export function QueueBar({ slug, state, onChange, onViews, onFind, onWork }: Props) {
  const sources = useSources(slug).data ?? [];
  const me = useProgress(slug).data?.actor ?? "";
  const what = chosenOf(state);
  const look = (next: typeof what) => {
    if (next === "piece") return onWork();
    if (next === "mine" || next === "pool") return onChange({ what: "", asked: "", work: next });
    onChange(next === "asked" ? { what: "", asked: me, work: "" } : { what: next, asked: "", work: "" });
  };
  return (
    <>
      <Search
        label="Search the records"
        value={state.search}
        onChange={(search) => onChange({ search })}
        className="w-36"
      />
      <Choice label="What is looked at" value={what} options={WHAT} onChange={look} className="w-40" />
      <KindChoice slug={slug} value={state.kind} onChange={(kind) => onChange({ kind })} />
      <Choice
        label="Source"
        value={state.source}
        options={[{ value: "", label: "Any source" }, ...sources.map(({ name }) => ({ value: name, label: name }))]}
        onChange={(source) => onChange({ source })}
        className="w-28"
      />
      <Choice
        label="Order"
        value={state.order}
        options={ORDERS}
        onChange={(order) => onChange({ order })}
        className="w-40"
      />
      {state.order === "value" && <ValueField slug={slug} />}
      <Button onClick={onViews}>
        Views <Key>V</Key>
      </Button>
      <Button onClick={onFind}>
        Find two <Key>F</Key>
      </Button>
      <Button onClick={onWork}>
        Whose <Key>G</Key>
      </Button>
    </>
  );
}
