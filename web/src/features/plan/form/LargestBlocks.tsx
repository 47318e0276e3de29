import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";
import { count, nameOf } from "../../../domain/format";
import { Faces } from "../../../ui";

/** A look into the blocks of a key: the values that bring most records together, before any is narrowed. */
export function LargestBlocks({ slug, expression, most }: { slug: string; expression: string; most: number }) {
  const query = useQuery({
    queryKey: keys.of(slug, "largest blocks", expression),
    queryFn: () =>
      unwrap(
        client.POST("/api/registers/{slug}/bench/blocks", { params: { path: { slug } }, body: { key: expression } }),
      ),
  });
  return (
    <div className="mb-1 ml-3 border-l-[3px] border-line pl-2 text-xs">
      <Faces query={query}>
        {(blocks) =>
          blocks.length === 0 ? (
            <p className="text-soft">No two records share a value of it.</p>
          ) : (
            <ul aria-label={`Largest blocks of ${expression}`}>
              {blocks.map((block) => (
                <li key={block.value} className="flex gap-2">
                  <span className="w-32 shrink-0 truncate font-mono" title={block.value}>
                    {block.value}
                  </span>
                  <span className={`w-24 shrink-0 ${block.records > most ? "font-semibold text-rust" : ""}`}>
                    {count(block.records)} records
                  </span>
                  <span className="truncate text-soft">
                    {block.examples.map(({ fields, source_key }) => nameOf(fields) || source_key).join(" · ")}
                  </span>
                </li>
              ))}
            </ul>
          )
        }
      </Faces>
    </div>
  );
}
