import { useState } from "react";
import { useNavigate } from "react-router";
import { useRegister } from "../../api/registers";
import { useSources } from "../../api/sources";
import { Faces, notify } from "../../ui";
import { type Source, useAskAgain, useChangeSource } from "./queries";
import { restraintOf, SourceDialog } from "./SourceDialog";

/** Ask the query of a source for its next delivery, which opens to be checked. */
function AskAgain({ slug, source }: { slug: string; source: Source }) {
  const ask = useAskAgain(slug);
  const navigate = useNavigate();
  return (
    <button
      type="button"
      className="min-h-6 text-xs text-plum underline disabled:text-soft"
      title={`${source.query?.address}\n${source.query?.sql}`}
      aria-label={`Ask ${source.name} again`}
      disabled={ask.isPending}
      onClick={() =>
        ask.mutate(source.name, {
          onSuccess: (preview) => navigate(`/r/${slug}/bring-in/${preview.delivery.id}`),
          onError: (error) => notify(error, true),
        })
      }
    >
      ask again
    </button>
  );
}

function Line({ slug, source, last }: { slug: string; source: Source; last: boolean }) {
  const [open, setOpen] = useState(false);
  const change = useChangeSource(slug);
  const seen_version = useRegister(slug)?.version ?? 1;
  const move = (by: number) =>
    change.mutate(
      { name: source.name, trust_rank: source.trust_rank + by, seen_version },
      { onError: (error) => notify(error, true) },
    );
  return (
    <li className="flex items-center gap-2 border-b border-line py-1 text-sm">
      <span className="w-5 text-right font-mono text-soft">{source.trust_rank}</span>
      <span className="min-w-0 flex-1">
        <button
          type="button"
          className="block max-w-full truncate text-left font-medium underline decoration-line-strong hover:text-plum"
          title={`What ${source.name} may do`}
          onClick={() => setOpen(true)}
        >
          {source.name}
        </button>
        {restraintOf(source) && <span className="block text-xs text-soft">{restraintOf(source)}</span>}
        {source.query && <AskAgain slug={slug} source={source} />}
      </span>
      <label className="flex items-center gap-1 text-xs text-soft">
        <input
          type="checkbox"
          className="accent-plum"
          checked={!source.own_duplicates}
          onChange={(event) =>
            change.mutate(
              { name: source.name, own_duplicates: !event.target.checked, seen_version },
              { onError: (error) => notify(error, true) },
            )
          }
        />
        no duplicates
      </label>
      <button
        type="button"
        className="px-1 text-plum disabled:text-soft"
        aria-label={`Trust ${source.name} more`}
        disabled={source.trust_rank === 1 || change.isPending}
        onClick={() => move(-1)}
      >
        ↑
      </button>
      <button
        type="button"
        className="px-1 text-plum disabled:text-soft"
        aria-label={`Trust ${source.name} less`}
        disabled={last || change.isPending}
        onClick={() => move(1)}
      >
        ↓
      </button>
      {open && <SourceDialog slug={slug} source={source} onClose={() => setOpen(false)} />}
    </li>
  );
}

/** The sources, most trusted first; the order decides ties and the rule "source rank". */
export function SourceList({ slug }: { slug: string }) {
  const sources = useSources(slug);
  return (
    <section aria-label="Sources">
      <h2 className="text-sm font-semibold">Sources, most trusted first</h2>
      <p className="mb-1 text-xs text-soft">
        A source that promises to have <em>no duplicates</em> of its own is never merged with itself.
      </p>
      <Faces query={sources} rows={3}>
        {(list) =>
          list.length === 0 ? (
            <p className="text-sm text-soft">None yet; the first delivery makes one.</p>
          ) : (
            <ol>
              {list.map((source, place) => (
                <Line key={source.name} slug={slug} source={source} last={place === list.length - 1} />
              ))}
            </ol>
          )
        }
      </Faces>
    </section>
  );
}
