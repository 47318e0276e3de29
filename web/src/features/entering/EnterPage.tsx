import { useState } from "react";
import { useParams } from "react-router";
import { useLayout } from "../../api/registers";
import { filledFrom, typedFields, typedName } from "../../domain/entering";
import { Button, Empty, Page, Pane, Trouble, useSettledText } from "../../ui";
import { BeginsPart } from "./BeginsPart";
import { CandidateCard } from "./CandidateCard";
import { ChecksDialog } from "./ChecksDialog";
import { CreatePart } from "./CreatePart";
import { EnteredPart } from "./EnteredPart";
import { EntryForm } from "./EntryForm";
import { type Entered, type EntryIn, useEnter, useLook, type Values } from "./queries";
import { ReferencePart } from "./ReferencePart";
import { ToldPart } from "./ToldPart";

/** While a person types nothing is asked; so long after the last letter it is. */
const SETTLED_MS = 250;

/** Search, then create: who is there is shown while a person types, before anything is saved. */
export function EnterPage() {
  const { slug = "" } = useParams();
  const [checks, setChecks] = useState(false);
  const [round, setRound] = useState(0);
  return (
    <Page
      title="Enter a record"
      about="Type what you know. Who is there already is shown beside it, before anything is saved."
      actions={<Button onClick={() => setChecks(true)}>Checks…</Button>}
    >
      <Entering key={`${slug} ${round}`} slug={slug} onNext={() => setRound(round + 1)} />
      {checks && <ChecksDialog slug={slug} onClose={() => setChecks(false)} />}
    </Page>
  );
}

function Entering({ slug, onNext }: { slug: string; onNext: () => void }) {
  const [values, setValues] = useState<Values>({});
  const [taken, setTaken] = useState<Values>({});
  const [entered, setEntered] = useState<Entered>();
  const enter = useEnter(slug);
  const layout = useLayout(slug);
  const fields = typedFields(layout.data?.fields ?? []);
  if (layout.error) return <Trouble error={layout.error} />;
  // Without its fields the page would say that nothing is typed while it cannot be typed yet.
  if (!layout.data) return null;
  if (entered) return <EnteredPart slug={slug} entered={entered} onNext={onNext} />;
  const save = (act: EntryIn["act"], more: { golden_key?: string; reason?: string }) => {
    const kept = Object.fromEntries(Object.entries(taken).filter(([name]) => values[name]));
    enter.mutate({ golden_key: "", reason: "", values, act, taken: kept, ...more }, { onSuccess: setEntered });
  };
  return (
    <div className="grid h-full min-h-0 grid-cols-[23rem_1fr]">
      <Pane label="What you know" className="space-y-4 border-r border-line px-4 py-3">
        <EntryForm
          fields={fields}
          values={values}
          taken={taken}
          onChange={(name, value) => {
            setValues({ ...values, [name]: value });
            setTaken(Object.fromEntries(Object.entries(taken).filter(([own]) => own !== name)));
          }}
        />
        <ReferencePart
          slug={slug}
          name={typedName(values)}
          onTake={(one, from) => {
            const filled = filledFrom(values, one.values);
            const fresh = Object.keys(filled).filter((name) => filled[name] !== values[name]);
            setValues(filled);
            setTaken({ ...taken, ...Object.fromEntries(fresh.map((name) => [name, from])) });
          }}
        />
      </Pane>
      <Who
        slug={slug}
        values={values}
        labels={Object.fromEntries(fields.map(({ name, label }) => [name, label]))}
        busy={enter.isPending}
        error={enter.error}
        onSave={save}
        onLeave={onNext}
      />
    </div>
  );
}

interface WhoProps {
  slug: string;
  values: Values;
  labels: Values;
  busy: boolean;
  error: Error | null;
  onSave: (act: EntryIn["act"], more: { golden_key?: string; reason?: string }) => void;
  onLeave: () => void;
}

function Who({ slug, values, labels, busy, error, onSave, onLeave }: WhoProps) {
  const settled = useSettledText(JSON.stringify(values), SETTLED_MS);
  const typed = JSON.parse(settled) as Values;
  const look = useLook(slug, typed);
  const nothing = Object.values(typed).every((value) => value.trim() === "");
  if (nothing)
    return (
      <Empty title="Nothing is typed yet.">
        <p>A name is enough to begin with; a phone number, an address or a tax number tells more.</p>
      </Empty>
    );
  const { candidates = [], told = [] } = look.data ?? {};
  const upToDate = look.data !== undefined && !look.isPlaceholderData && settled === JSON.stringify(values);
  return (
    <Pane label="Who is there" className="space-y-4 px-4 py-3">
      {look.error ? (
        <Trouble error={look.error} />
      ) : (
        <>
          <p role="status" className="text-sm font-semibold">
            {look.data === undefined
              ? "Looking…"
              : candidates.length === 0
                ? "Nobody there is like that."
                : "It may be one of these:"}
          </p>
          <ToldPart slug={slug} told={told} />
          {candidates.map((candidate) => (
            <CandidateCard
              key={candidate.golden_key}
              slug={slug}
              candidate={candidate}
              labels={labels}
              busy={busy}
              onUse={() => onSave("use", { golden_key: candidate.golden_key })}
              onAdd={() => onSave("add", { golden_key: candidate.golden_key })}
            />
          ))}
          <BeginsPart slug={slug} typed={typedName(typed)} shown={candidates.map(({ golden_key }) => golden_key)} />
          <div className="border-t border-line pt-3">
            <CreatePart
              doubtful={told.length > 0 || candidates.some(({ verdict }) => verdict === "same")}
              forbidden={told.some(({ forbids }) => forbids)}
              busy={busy || !upToDate}
              onCreate={(reason) => onSave("create", { reason })}
              onLeave={onLeave}
            />
          </div>
          {error && <Trouble error={error} />}
        </>
      )}
    </Pane>
  );
}
