import { useSyncExternalStore } from "react";

interface Note {
  id: number;
  text: string;
  trouble: boolean;
}

let notes: readonly Note[] = [];
let next = 1;
const listeners = new Set<() => void>();
const SHOWN_MS = 6000;

function publish(changed: readonly Note[]) {
  notes = changed;
  for (const listener of listeners) listener();
}

/** Say something in passing; trouble stays until it is put away. */
export function notify(text: string, trouble = false) {
  const note = { id: next++, text, trouble };
  publish([...notes.slice(-3), note]);
  if (!trouble) setTimeout(() => dismiss(note.id), SHOWN_MS);
}

function dismiss(id: number) {
  publish(notes.filter((note) => note.id !== id));
}

export function Toasts() {
  const shown = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => notes,
  );
  return (
    <section
      aria-label="Messages"
      aria-live="polite"
      className="pointer-events-none fixed right-4 bottom-10 z-20 space-y-2"
    >
      {shown.map((note) => (
        <div
          key={note.id}
          className={`pointer-events-auto flex max-w-md items-start gap-3 rounded-[3px] border bg-sheet px-3 py-2 text-sm shadow-[var(--shadow)] ${
            note.trouble ? "border-rust" : "border-line-strong"
          }`}
        >
          <p>{note.text}</p>
          <button type="button" aria-label="Put away" className="text-soft" onClick={() => dismiss(note.id)}>
            ×
          </button>
        </div>
      ))}
    </section>
  );
}
