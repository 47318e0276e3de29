import { Link, useParams, useSearchParams } from "react-router";
import { bits, moment } from "../../domain/format";
import { Button, Faces, Page, Pane } from "../../ui";
import { useWhy, type Why } from "./queries";

const called = ({ source, source_key, name }: Why["left"]) => `${name} (${source} ${source_key})`;

/** Why two records are one, or are not: from their first deliveries to today, fit for paper. */
export function WhyPage() {
  const { slug = "" } = useParams();
  const [params] = useSearchParams();
  const query = useWhy(slug, Number(params.get("left")), Number(params.get("right")));
  return (
    <Page
      title={query.data && !query.data.are_one ? "Why are these two not one?" : "Why are these two one?"}
      actions={
        <Button look="main" className="print:hidden" onClick={() => window.print()}>
          Print
        </Button>
      }
    >
      <Pane label="Why" className="h-full px-4 py-3 print:overflow-visible">
        <Faces query={query}>{(why) => <Answer slug={slug} why={why} />}</Faces>
      </Pane>
    </Page>
  );
}

function Answer({ slug, why }: { slug: string; why: Why }) {
  const { left, right, left_key, right_key, are_one, path, happened } = why;
  return (
    <article className="max-w-4xl space-y-5">
      <p className="text-base">
        {called(left)} and {called(right)}{" "}
        {are_one ? (
          <>
            are one golden record today: <GoldenLink slug={slug} goldenKey={left_key} />.
          </>
        ) : (
          <>
            are not one: <GoldenLink slug={slug} goldenKey={left_key} /> and{" "}
            <GoldenLink slug={slug} goldenKey={right_key} />.
          </>
        )}
      </p>
      {path.length > 0 && (
        <section aria-label="What holds them together today">
          <h2 className="mb-1 font-semibold">What holds them together today</h2>
          <ol className="list-decimal space-y-1 pl-6 text-sm">
            {path.map((link) => (
              <li key={`${link.left.id} ${link.right.id}`}>
                {called(link.left)} and {called(link.right)}: {link.says}
                {link.score !== null && <span className="text-soft">{` ${bits(link.score)} bits.`}</span>}
              </li>
            ))}
          </ol>
        </section>
      )}
      <section aria-label="What happened">
        <h2 className="mb-1 font-semibold">From the first delivery to today</h2>
        <ol className="border-l-2 border-line-strong pl-4 text-sm">
          {happened.map(({ at, actor, what, says, reason, entry, undone }) => (
            <li key={`${at} ${what} ${says}`} className="break-inside-avoid py-1">
              <span className="mr-3 whitespace-nowrap text-soft">{moment(at)}</span>
              <span className={undone ? "text-soft line-through" : ""}>{says}</span>
              {undone && <span className="text-soft"> (taken back since)</span>}
              {reason && <span>{`, because: ${reason}`}</span>}
              {actor && <span className="ml-3 text-soft">{actor}</span>}
              {entry !== null && (
                <Link
                  className="ml-3 text-xs text-plum underline print:hidden"
                  to={`/r/${slug}/journal?entry=${entry}`}
                >
                  entry {entry}
                </Link>
              )}
            </li>
          ))}
        </ol>
      </section>
    </article>
  );
}

function GoldenLink({ slug, goldenKey }: { slug: string; goldenKey: string }) {
  if (!goldenKey) return <>no golden record yet</>;
  return (
    <Link className="font-mono whitespace-nowrap text-plum underline" to={`/r/${slug}/golden/${goldenKey}`}>
      {goldenKey}
    </Link>
  );
}
