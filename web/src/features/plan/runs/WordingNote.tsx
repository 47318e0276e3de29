import { useNavigate, useParams } from "react-router";
import { count } from "../../../domain/format";
import { Button, Trouble } from "../../../ui";
import { useListOfWords, type WordHabit } from "../queries";

const MOST_TOLD = 8;

/** The same word of a source that stands for the same one in several others is told once. */
function together(habits: readonly WordHabit[]) {
  const found = new Map<string, { source: string; written: string; meant: string; others: string[]; times: number }>();
  for (const { source, written, meant, other, times } of habits) {
    const key = JSON.stringify([source, written, meant]);
    const known = found.get(key) ?? { source, written, meant, others: [], times: 0 };
    found.set(key, { ...known, others: [...known.others, other], times: known.times + times });
  }
  return [...found.values()].sort((one, other) => other.times - one.times);
}

/** Words that two sources write differently as a habit, and a swap list of them a click away. */
export function WordingNote({ habits }: { habits: readonly WordHabit[] }) {
  const { slug = "" } = useParams();
  const navigate = useNavigate();
  const make = useListOfWords(slug);
  const words = together(habits);
  const told = words.slice(0, MOST_TOLD);
  const untold = words.length - told.length;
  const makeList = () =>
    make.mutate(habits, {
      onSuccess: ({ name }) => navigate(`/r/${slug}/tidy/tables/${encodeURIComponent(name)}`),
    });
  return (
    <section aria-label="Words written differently" className="mt-3 mb-4 border-t border-line pt-2 text-sm">
      <p>Sources write some words differently as a habit, as likely pairs tell:</p>
      <ul className="mt-1 flex flex-wrap gap-x-5 gap-y-0.5">
        {told.map(({ source, written, others, meant, times }) => (
          <li key={`${source}/${written}/${meant}`}>
            <b>{written}</b> in {source} for <b>{meant}</b> in {others.join(", ")},{" "}
            <span className="font-mono">{count(times)}</span> times
          </li>
        ))}
        {untold > 0 && <li className="text-soft">and {count(untold)} more</li>}
      </ul>
      <p className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1 text-soft">
        <span>
          Where little else is known they are used in further rounds; say <code>wording: told</code> under{" "}
          <code>weights</code> in the plan if not.
        </span>
        <Button needs="tidy" everywhere onClick={makeList} disabled={make.isPending}>
          Put them into a swap list
        </Button>
      </p>
      {make.error && <Trouble error={make.error} />}
    </section>
  );
}
