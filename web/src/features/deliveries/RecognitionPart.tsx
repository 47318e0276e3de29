import { useState } from "react";
import { count, counted, moment } from "../../domain/format";
import { Faces, notify } from "../../ui";
import { type Recognition, useRecognition, useSetRecognition } from "./outcomeQueries";
import { RecognitionDialog } from "./RecognitionDialog";

/** Whether deliveries are recognised as they come in: matched with what is there, and merged where that is sure. */
export function RecognitionPart({ slug }: { slug: string }) {
  const [choosing, setChoosing] = useState(false);
  const change = useSetRecognition(slug);
  return (
    <section aria-label="Recognition">
      <h2 className="mb-1 text-sm font-semibold">What becomes of a delivery</h2>
      <Faces query={useRecognition(slug)}>
        {(recognition) => (
          <>
            <label className="flex items-start gap-2 text-sm">
              <input
                type="checkbox"
                className="mt-1 accent-plum"
                checked={recognition.on}
                disabled={change.isPending}
                onChange={(event) =>
                  change.mutate({ on: event.target.checked }, { onError: (error) => notify(error, true) })
                }
              />
              Recognise records as they come in
            </label>
            <p className="mt-1 text-xs text-soft">{says(recognition)}</p>
            <button
              type="button"
              className="mt-1 min-h-6 text-sm text-plum underline"
              onClick={() => setChoosing(true)}
            >
              What may be recognised…
            </button>
            {choosing && <RecognitionDialog slug={slug} recognition={recognition} onClose={() => setChoosing(false)} />}
          </>
        )}
      </Faces>
    </section>
  );
}

function says({ on, hindrance, changed, learned_from, learned_at, only_field, only_values }: Recognition): string {
  if (!on) return "A delivery waits until a person runs the match and merges what it finds.";
  if (hindrance) return `Next time everything is matched: ${hindrance}.`;
  const only = only_field ? ` Only golden records with ${only_values.join(" or ")}.` : "";
  const learned = `By what was learned from ${counted(learned_from, "record")}${learned_at ? `, ${moment(learned_at)}` : ""}.`;
  return changed ? `${learned} ${count(changed)} changed since and are to be recognised.${only}` : learned + only;
}
