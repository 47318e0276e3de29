import { useState } from "react";
import { columnsOf, type Edge, marksOf, sidesWithout } from "../../../domain/cluster";
import { Faces, notify, useKeys } from "../../../ui";
import { ContradictionDialog } from "../dialogs/ContradictionDialog";
import { FindDialog } from "../dialogs/FindDialog";
import { LaterDialog } from "../dialogs/LaterDialog";
import type { Contradiction } from "../queries";
import type { Desk } from "../useDesk";
import { useGoOn } from "../useVerdicts";
import { ChooseValueDialog } from "./ChooseValueDialog";
import { ClusterBar } from "./ClusterBar";
import { ClusterTable } from "./ClusterTable";
import { LinksDrawing, linkInWords, weakestOf } from "./LinksDrawing";
import {
  type Cluster,
  type ClusterLink,
  type GroupIn,
  useCluster,
  useDecideGroup,
  useRecordsOf,
  useWouldBe,
} from "./queries";
import { useMarks } from "./useMarks";

/** A cluster of the queue as a table; decided, it leaves the queue and the next doubt comes into view. */
export function ClusterView({ slug, cluster, desk }: { slug: string; cluster: number; desk: Desk }) {
  const of = useRecordsOf(slug, [cluster]);
  const goOn = useGoOn(desk);
  return (
    <Faces query={of}>
      {(records) => <Workbench slug={slug} records={records} cluster={cluster} onDecided={() => goOn()} />}
    </Faces>
  );
}

interface Props {
  slug: string;
  records: readonly number[];
  /** The number of the cluster in the queue, 0 for records that a person put side by side. */
  cluster: number;
  onDecided: () => void;
}

/** Any records side by side, with further ones added by hand. */
export function Workbench({ slug, records, cluster, onDecided }: Props) {
  const [added, setAdded] = useState<number[]>([]);
  const every = [...records, ...added.filter((record) => !records.includes(record))];
  const found = useCluster(slug, every);
  return (
    <Faces query={found}>
      {(data) => (
        <Table
          slug={slug}
          found={data}
          cluster={cluster}
          hasAdded={added.length > 0}
          onAdd={(more) => setAdded([...added, ...more])}
          onDecided={onDecided}
        />
      )}
    </Faces>
  );
}

type Open = "" | "later" | "add";

function Table({
  slug,
  found,
  cluster,
  hasAdded,
  onAdd,
  onDecided,
}: {
  slug: string;
  found: Cluster;
  cluster: number;
  hasAdded: boolean;
  onAdd: (records: number[]) => void;
  onDecided: () => void;
}) {
  const records = found.records.map(({ id }) => id);
  const { marks, groups, cursor, setCursor, mark, toggle, setMarks } = useMarks(records);
  const [onlyDiffering, setOnlyDiffering] = useState(false);
  const [folded, setFolded] = useState(records.length > 8);
  const [unfolded, setUnfolded] = useState<ReadonlySet<number>>(new Set());
  const [links, setLinks] = useState(false);
  const [link, setLink] = useState<ClusterLink>();
  const [open, setOpen] = useState<Open>("");
  const [value, setValue] = useState<{ record: number; field: string; value: string }>();
  const [contradicts, setContradicts] = useState<Contradiction[]>([]);
  const decide = useDecideGroup(slug);
  const wouldBe = useWouldBe(slug, groups);
  const columns = columnsOf(records, found.alike, folded, unfolded);
  const golden = groups.length > 1 && wouldBe.data?.length === groups.length ? wouldBe.data : [found.values];
  const here = columns[Math.min(cursor, columns.length - 1)] ?? [];

  const say = (verdict: GroupIn["verdict"], sides: number[][], more: Partial<GroupIn> = {}) => {
    if (decide.isPending || records.length < 2) return;
    decide.mutate(
      { sides, verdict, remark: "", until: null, asked: "", cluster, ...more },
      {
        onSuccess: (decided) => {
          notify(
            verdict === "same"
              ? `${records.length} records are the same; the next merge follows.`
              : verdict === "later"
                ? "Put off for later."
                : `Kept apart in ${sides.length} groups; the next merge follows.`,
          );
          if (decided.contradicts.length > 0) setContradicts(decided.contradicts);
          else onDecided();
        },
        onError: (error) => notify(error, true),
      },
    );
  };
  const accept = () => groups.length === 1 && say("same", [records]);
  const apart = () => say("different", groups.length > 1 ? groups : records.map((record) => [record]));
  const later = () => say("later", [records]);
  const cutAt = (chosen: ClusterLink | undefined) => {
    setLink(chosen);
    const edges = found.links.filter(({ holds }) => holds).map(({ left_id, right_id }): Edge => [left_id, right_id]);
    setMarks(chosen ? marksOf(sidesWithout(records, edges, [chosen.left_id, chosen.right_id])) : {});
  };
  useKeys([
    { key: "s", needs: "decide", label: "All of these are the same", run: accept },
    { key: "d", needs: "decide", label: "Split as marked; without marks none are the same", run: apart },
    { key: "l", needs: "decide", label: "Decide later", run: later },
    { key: "w", needs: "decide", label: "Later: wait for a day, or ask somebody", run: () => setOpen("later") },
    { key: "ArrowRight", label: "Next record", run: () => setCursor(Math.min(cursor + 1, columns.length - 1)) },
    { key: "ArrowLeft", label: "Previous record", run: () => setCursor(Math.max(cursor - 1, 0)) },
    { key: "x", label: "Take the record out, or put it back", run: () => toggle(here) },
    ...[1, 2, 3, 4, 5, 6, 7, 8, 9].map((group) => ({
      key: String(group),
      label: `Mark the record for group ${group}`,
      run: () => mark(here, group),
    })),
    { key: "o", label: "All fields, or only what differs", run: () => setOnlyDiffering(!onlyDiffering) },
    { key: "h", label: "Fold records that are alike", run: () => setFolded(!folded) },
    { key: "k", label: "What holds it together", run: () => setLinks(!links) },
    { key: "+", label: "Add a record found by search", run: () => setOpen("add") },
  ]);
  const weakest = weakestOf(found.links);
  const labels = new Map(found.fields.map(({ name, label }) => [name, label]));
  return (
    <div className="flex min-h-0 min-w-0 flex-col">
      <p className="px-4 pt-2 pb-1 text-base">
        {`${records.length} records${hasAdded ? ", some added by hand" : ""}. `}
        {groups.length > 1 && <span className="text-plum">{`Marked for ${groups.length} groups. `}</span>}
        {weakest && (
          <span className="text-soft">{`The weakest link that holds it: ${linkInWords(weakest, undefined)}`}</span>
        )}
      </p>
      <ClusterTable
        cluster={found}
        columns={columns}
        golden={golden}
        marks={marks}
        cursor={cursor}
        onlyDiffering={onlyDiffering}
        onToggle={toggle}
        onCursor={setCursor}
        onUnfold={(first) => setUnfolded(new Set([...unfolded, first]))}
        onChoose={(record, field, chosen) => setValue({ record: record.id, field, value: chosen })}
      />
      {links && <LinksDrawing cluster={found} order={records} marks={marks} chosen={link} onChoose={cutAt} />}
      <ClusterBar
        groups={groups.length}
        records={records.length}
        onAccept={accept}
        onApart={apart}
        onLater={later}
        onPutOff={() => setOpen("later")}
        onlyDiffering={onlyDiffering}
        onDiffering={() => setOnlyDiffering(!onlyDiffering)}
        folded={folded}
        onFold={() => setFolded(!folded)}
        links={links}
        onLinks={() => setLinks(!links)}
        onAdd={() => setOpen("add")}
      />
      {open === "later" && (
        <LaterDialog
          slug={slug}
          onSay={(asked) => {
            setOpen("");
            say("later", [records], asked);
          }}
          onClose={() => setOpen("")}
        />
      )}
      {open === "add" && (
        <FindDialog
          slug={slug}
          title="Add a record"
          least={1}
          does="Add to the table"
          onChosen={(more) => {
            setOpen("");
            onAdd(more);
          }}
          onClose={() => setOpen("")}
        />
      )}
      {value && (
        <ChooseValueDialog
          slug={slug}
          goldenKey={found.golden_keys[value.record]}
          field={value.field}
          label={labels.get(value.field) ?? value.field}
          value={value.value}
          onClose={() => setValue(undefined)}
        />
      )}
      {contradicts.length > 0 && (
        <ContradictionDialog
          slug={slug}
          found={contradicts}
          onClose={() => {
            setContradicts([]);
            onDecided();
          }}
        />
      )}
    </div>
  );
}
