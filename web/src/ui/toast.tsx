import { useSyncExternalStore } from "react";
import { WaitsForSignOff } from "../api/client";

interface Note {
  id: number;
  text: string;
  trouble: boolean;
  action?: Action | undefined;
}

/** What can be done about what was said. */
export interface Action {
  label: string;
  run: () => void;
}

let notes: readonly Note[] = [];
let next = 1;
const listeners = new Set<() => void>();
const SHOWN_MS = 6000;

function publish(changed: readonly Note[]) {
  notes = changed;
  for (const listener of listeners) listener();
}

/** Say something in passing, for longer if something can be done about it; trouble stays until it is put away. What waits for sign-off is
 * no trouble, and is told by itself. */
export function notify(said: string | Error, trouble = false, action?: Action) {
  if (said instanceof WaitsForSignOff) return;
  const note = { id: next++, text: typeof said === "string" ? said : said.message, trouble, action };
  publish([...notes.slice(-3), note]);
  if (!trouble) setTimeout(() => dismiss(note.id), action ? 3 * SHOWN_MS : SHOWN_MS);
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
          {note.action && (
            <button
              type="button"
              className="whitespace-nowrap font-medium text-plum underline"
              onClick={() => {
                note.action?.run();
                dismiss(note.id);
              }}
            >
              {note.action.label}
            </button>
          )}
          <button type="button" aria-label="Put away" className="text-soft" onClick={() => dismiss(note.id)}>
            ×
          </button>
        </div>
      ))}
    </section>
  );
}
