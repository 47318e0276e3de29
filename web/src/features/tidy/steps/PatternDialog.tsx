import { useState } from "react";
import type { Step } from "../../../domain/tidySteps";
import { Button, Faces, Modal, Trouble } from "../../../ui";
import { useBuildPattern, useTriedSteps } from "./queries";

interface Marked {
  text: string;
  start: number;
  end: number;
}

interface Props {
  slug: string;
  field: string;
  /** The steps that come before the pattern: it sees what they leave. */
  before: readonly Step[];
  onPattern: (pattern: string) => void;
  onClose: () => void;
}

function Example({ number, marked, onMark }: { number: number; marked: Marked; onMark: (marked: Marked) => void }) {
  return (
    <li className="flex items-center gap-3">
      <input
        aria-label={`Example ${number}`}
        value={marked.text}
        // A read-only field has no caret to be moved by keys: this one has, and refuses every change instead.
        onChange={() => undefined}
        onBeforeInput={(event) => event.preventDefault()}
        onKeyDown={(event) => ["Backspace", "Delete"].includes(event.key) && event.preventDefault()}
        onPaste={(event) => event.preventDefault()}
        onCut={(event) => event.preventDefault()}
        onDrop={(event) => event.preventDefault()}
        onSelect={({ currentTarget: { selectionStart, selectionEnd } }) =>
          onMark({ ...marked, start: selectionStart ?? 0, end: selectionEnd ?? 0 })
        }
        className="h-8 flex-1 rounded-[3px] border border-line-strong bg-sheet px-2 font-mono text-sm"
      />
      <span className="w-52 truncate font-mono text-sm">
        {marked.end > marked.start ? (
          <mark className="bg-plum-wash text-ink">{marked.text.slice(marked.start, marked.end)}</mark>
        ) : (
          <span className="text-soft">—</span>
        )}
      </span>
    </li>
  );
}

type MarkingProps = Pick<Props, "onPattern" | "onClose"> & { values: readonly string[] };

function Marking({ values, onPattern, onClose }: MarkingProps) {
  const [examples, setExamples] = useState<Marked[]>(() =>
    [...new Set(values)].slice(0, 8).map((text) => ({ text, start: 0, end: 0 })),
  );
  const build = useBuildPattern();
  const marked = examples.filter(({ start, end }) => end > start);
  const mark = (place: number, next: Marked) => {
    build.reset();
    setExamples(examples.map((item, at) => (at === place ? next : item)));
  };
  return (
    <>
      <p className="mb-2 text-sm text-soft">
        Select, in two or three values, the part that counts (with the mouse, or Shift and the arrow keys). Values
        without a mark do not count.
      </p>
      <ul className="space-y-1">
        {examples.map((example, place) => (
          <Example key={example.text} number={place + 1} marked={example} onMark={(next) => mark(place, next)} />
        ))}
      </ul>
      {build.error && (
        <div className="mt-2">
          <Trouble error={build.error} />
        </div>
      )}
      {build.data && (
        <p className="mt-3 text-sm">
          The pattern: <code className="font-mono">{build.data.pattern}</code>
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Leave</Button>
        <Button disabled={marked.length === 0 || build.isPending} onClick={() => build.mutate(marked)}>
          Build the pattern
        </Button>
        <Button
          look="main"
          disabled={!build.data}
          onClick={() => {
            if (build.data) onPattern(build.data.pattern);
            onClose();
          }}
        >
          Use it
        </Button>
      </div>
    </>
  );
}

/** Builds a pattern from real values on which a person marks the part that counts. */
export function PatternDialog({ slug, field, before, onPattern, onClose }: Props) {
  const tried = useTriedSteps(slug, field, before, "", false);
  return (
    <Modal title="A pattern from marked examples" wide onClose={onClose}>
      <Faces query={tried} rows={4}>
        {({ values }) => (
          <Marking
            values={values.map((value) => value.after.at(-1) ?? value.before).filter(Boolean)}
            onPattern={onPattern}
            onClose={onClose}
          />
        )}
      </Faces>
    </Modal>
  );
}
