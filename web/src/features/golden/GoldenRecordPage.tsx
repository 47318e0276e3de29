import { useState } from "react";
import { useParams } from "react-router";
import { useLayout } from "../../api/registers";
import { counted, nameOf } from "../../domain/format";
import { Button, Faces, LinkButton, Page, Pane } from "../../ui";
import { Bonds } from "./Bonds";
import { Contradictions } from "./Contradictions";
import { HeldValues } from "./HeldValues";
import { History } from "./History";
import { MemberTable } from "./MemberTable";
import { PinDialog } from "./PinDialog";
import { type Golden, useGolden } from "./queries";
import { Relations } from "./Relations";
import { SplitDialog } from "./SplitDialog";
import { ThenDialog } from "./ThenDialog";

/** As many records as a table shows side by side. */
const MOST_SIDE_BY_SIDE = 200;

function View({ slug, golden }: { slug: string; golden: Golden }) {
  const layout = useLayout(slug);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const [pinning, setPinning] = useState<string | null>(null);
  const [splitting, setSplitting] = useState(false);
  const [looking, setLooking] = useState(false);
  const toggle = (id: number) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  const former = golden.former_keys.length > 0 ? `; earlier also ${golden.former_keys.join(", ")}` : "";
  const led = golden.asked_for !== golden.key ? ` (${golden.asked_for} leads here)` : "";
  const fields = layout.data?.fields ?? [];
  return (
    <Page
      title={`${golden.key} ${nameOf(golden.values)}`}
      about={`stands for ${counted(golden.members.length, "record")}${former}${led}`}
      actions={
        <>
          <Button onClick={() => setLooking(true)}>As it was…</Button>
          {golden.members.length <= MOST_SIDE_BY_SIDE && (
            <LinkButton
              needs="see"
              to={`/r/${slug}/review/records?${new URLSearchParams(golden.members.map(({ id }) => ["record", String(id)]))}`}
            >
              Side by side
            </LinkButton>
          )}
          {chosen.size === 2 && (
            <LinkButton needs="see" to={`/r/${slug}/why?left=${[...chosen].join("&right=")}`}>
              Why are these one?
            </LinkButton>
          )}
          <LinkButton needs="see" to={`/r/${slug}/journal?golden_key=${golden.key}`}>
            Journal
          </LinkButton>
          <LinkButton
            needs="forget"
            look="quiet"
            to={`/r/${slug}/forget?${chosen.size > 0 ? `records=${[...chosen].join(",")}` : `key=${golden.key}`}`}
          >
            Erase…
          </LinkButton>
          <Button
            needs="decide"
            disabled={chosen.size === 0 || chosen.size === golden.members.length}
            onClick={() => setSplitting(true)}
          >
            {chosen.size === 0 ? "Choose records to take out" : `Take ${counted(chosen.size, "record")} out`}
          </Button>
        </>
      }
    >
      <div className="grid h-full min-h-0 grid-rows-[auto_minmax(0,1fr)_auto]">
        <div>
          <Contradictions golden={golden} fields={fields} onSettle={setPinning} />
        </div>
        <Pane label="Values and records" className="px-4">
          <MemberTable golden={golden} fields={fields} chosen={chosen} onToggle={toggle} onPin={setPinning} />
        </Pane>
        <div className="grid max-h-52 grid-cols-[4fr_4fr_3fr] border-t border-line-strong bg-sunk">
          <Pane label="History" className="px-4 py-2">
            <History slug={slug} golden={golden} />
          </Pane>
          <Pane label="Links between the records" className="border-l border-line px-4 py-2">
            <Bonds slug={slug} golden={golden} />
          </Pane>
          <Pane label="All values" className="border-l border-line px-4 py-2">
            <Relations golden={golden} fields={fields} />
            <HeldValues golden={golden} fields={fields} />
          </Pane>
        </div>
      </div>
      {pinning && (
        <PinDialog
          slug={slug}
          golden={golden}
          field={pinning}
          label={fields.find(({ name }) => name === pinning)?.label ?? pinning}
          onClose={() => setPinning(null)}
        />
      )}
      {looking && <ThenDialog slug={slug} golden={golden} fields={fields} onClose={() => setLooking(false)} />}
      {splitting && (
        <SplitDialog
          slug={slug}
          golden={golden}
          chosen={[...chosen]}
          onDone={() => {
            setSplitting(false);
            setChosen(new Set());
          }}
          onClose={() => setSplitting(false)}
        />
      )}
    </Page>
  );
}

/** A golden record: its values with their origin, the records it stands for, and its history. */
export function GoldenRecordPage() {
  const { slug = "", goldenKey = "" } = useParams();
  const golden = useGolden(slug, goldenKey);
  return <Faces query={golden}>{(data) => <View key={data.key} slug={slug} golden={data} />}</Faces>;
}
