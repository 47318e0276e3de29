import { Link, useParams } from "react-router";
import { useLayout } from "../../../api/registers";
import { count, share } from "../../../domain/format";
import { Button, CELL, Empty, Faces, HEAD, notify, Page, Pane } from "../../../ui";
import { recordsBehind } from "../recordsBehind";
import { TidyNav } from "../TidyNav";
import { Course } from "./Course";
import { NewRule } from "./NewRule";
import { type MeasuredRule, type Quality, useQuality, useSaveRules } from "./queries";

function RuleTable({
  slug,
  quality,
  onRemove,
}: {
  slug: string;
  quality: Quality;
  onRemove: (rule: MeasuredRule) => void;
}) {
  const sources = quality.rules[0]?.shares.map(({ source }) => source) ?? [];
  return (
    <table className="w-full text-sm">
      <thead>
        <tr>
          <th scope="col" className={HEAD}>
            Rule
          </th>
          {sources.map((source) => (
            <th key={source} scope="col" className={`${HEAD} text-right`}>
              {source}
            </th>
          ))}
          <th scope="col" className={HEAD}>
            Over time
          </th>
          <th scope="col" className={HEAD}>
            <span className="sr-only">Remove</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {quality.rules.map((item) => (
          <tr key={item.key}>
            <th scope="row" className={`${CELL} text-left font-medium`}>
              {item.words}
            </th>
            {item.shares.map(({ source, failing, records }) => (
              <td key={source} className={`${CELL} text-right whitespace-nowrap`}>
                {failing > 0 ? (
                  <Link
                    className="text-plum underline"
                    aria-label={`${count(failing)} records of ${source} fail: ${item.words}`}
                    to={recordsBehind(slug, `source ${source}`, item.rule.field, "rule", item.key)}
                  >
                    {count(failing)}
                  </Link>
                ) : (
                  "0"
                )}
                <span className="ml-2 inline-block w-11 text-xs text-soft">{share(failing, records)}</span>
              </td>
            ))}
            <td className={CELL}>
              <Course rule={item} />
            </td>
            <td className={`${CELL} text-right`}>
              <Button
                needs="tidy"
                look="quiet"
                small
                className="px-0"
                aria-label={`Remove: ${item.words}`}
                onClick={() => onRemove(item)}
              >
                Remove
              </Button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What is expected of values, how many records fail it per source, and how that went from delivery to delivery. */
export function RulesPage() {
  const { slug = "" } = useParams();
  const quality = useQuality(slug);
  const layout = useLayout(slug);
  const save = useSaveRules(slug);
  const set = (rules: readonly MeasuredRule["rule"][]) =>
    save.mutate(
      { rules: [...rules], seen_version: quality.data?.version ?? 1 },
      { onError: (error) => notify(error, true) },
    );
  return (
    <Page title="Tidy" about={<TidyNav />}>
      <Pane label="Quality rules" className="h-full px-4">
        <Faces query={quality}>
          {(data) => {
            const rules = data.rules.map(({ rule }) => rule);
            return (
              <>
                {layout.data && (
                  <NewRule fields={layout.data.fields} kinds={data.kinds} onAdd={(rule) => set([...rules, rule])} />
                )}
                {data.rules.length === 0 ? (
                  <Empty title="There are no rules yet.">
                    <p>
                      A rule says what is expected of a field. After every delivery the records that fail are counted,
                      so that a bad load shows on its day.
                    </p>
                  </Empty>
                ) : (
                  <RuleTable
                    slug={slug}
                    quality={data}
                    onRemove={(gone) => set(rules.filter((rule) => rule !== gone.rule))}
                  />
                )}
              </>
            );
          }}
        </Faces>
      </Pane>
    </Page>
  );
}
