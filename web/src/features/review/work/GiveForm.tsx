import { useState } from "react";
import { Button, TextField, Trouble } from "../../../ui";
import type { QueueState } from "../queueState";
import { PeopleTicks } from "./PeopleTicks";
import { useGive } from "./queries";

const usual = { people: [] as string[], share: "100", least: "", most: "", due: "", remark: "" };

/** Give the doubts that the queue is filtered to: to whom, how many of a hundred, of which size, until when. */
export function GiveForm({ slug, state, me }: { slug: string; state: QueueState; me: string }) {
  const give = useGive(slug);
  const [draft, setDraft] = useState(usual);
  const set = (field: keyof typeof usual) => (event: { target: { value: string } }) =>
    setDraft({ ...draft, [field]: event.target.value });
  const giveTo = (people: string[]) =>
    give.mutate(
      {
        people,
        kind: state.kind,
        source: state.source,
        what: state.what,
        share: Number(draft.share) || 100,
        least_records: Number(draft.least) || 0,
        most_records: Number(draft.most) || 0,
        due_on: draft.due || null,
        remark: draft.remark,
      },
      { onSuccess: () => setDraft(usual) },
    );
  const what = { "": "doubts", pair: "pairs", cluster: "clusters" }[state.what];
  return (
    <form
      aria-label="Give work"
      className="space-y-2 border-t border-line-strong pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        giveTo(draft.people);
      }}
    >
      <p className="text-sm">
        <span className="font-medium">Give </span>
        {`all ${what}`}
        {state.source && ` of ${state.source}`}
        {state.kind ? " of the kind that the queue shows now" : " of every kind"}
        <span className="text-soft"> (what the queue is filtered to)</span>
      </p>
      <PeopleTicks slug={slug} label="To" chosen={draft.people} onChange={(people) => setDraft({ ...draft, people })} />
      <div className="grid grid-cols-4 gap-3">
        <TextField
          label="Of 100, so many"
          type="number"
          min={1}
          max={100}
          value={draft.share}
          onChange={set("share")}
        />
        <TextField label="Records, at least" type="number" min={0} value={draft.least} onChange={set("least")} />
        <TextField label="Records, at most" type="number" min={0} value={draft.most} onChange={set("most")} />
        <TextField label="Until" type="date" value={draft.due} onChange={set("due")} />
      </div>
      <TextField label="Remark, if any" value={draft.remark} maxLength={4000} onChange={set("remark")} />
      {give.error && <Trouble error={give.error} />}
      <div className="flex justify-end gap-2">
        <Button needs="decide" disabled={give.isPending || !me} onClick={() => giveTo([me])}>
          Take them myself
        </Button>
        <Button type="submit" look="main" needs="decide" disabled={give.isPending || draft.people.length === 0}>
          Give them
        </Button>
      </div>
    </form>
  );
}
