import { bits } from "../../../domain/format";
import type { Cluster, ClusterLink } from "./queries";

const WIDTH = 940;
const LEAST_STEP = 34;
const DROP = 78;

interface Props {
  cluster: Cluster;
  order: readonly number[];
  marks: Readonly<Record<number, number>>;
  chosen: ClusterLink | undefined;
  onChoose: (link: ClusterLink | undefined) => void;
}

/** How a link is drawn: what holds all together thick, what hangs on it alone in rust, what a person said double, the rest faint. */
function strokeOf(link: ClusterLink, weakest: ClusterLink | undefined, chosen: boolean) {
  if (link.decided === "different") return { stroke: "var(--rust)", strokeWidth: 1.5, strokeDasharray: "2 3" };
  const stroke = chosen ? "var(--plum)" : link === weakest || link.bridge ? "var(--rust)" : "var(--ink)";
  if (link.holds)
    return { stroke, strokeWidth: chosen ? 4 : 2.5, strokeDasharray: link === weakest ? "6 3" : undefined };
  return { stroke: "var(--line-strong)", strokeWidth: 1, strokeDasharray: link.same ? undefined : "1 4" };
}

/** What a link is, in a sentence. */
export function linkInWords(link: ClusterLink, weakest: ClusterLink | undefined): string {
  const score = link.score === null ? "" : `${bits(link.score)} bits: `;
  const hangs = link.bridge ? " Nothing else holds these two halves together." : "";
  const weak = link === weakest ? " The weakest of those that hold the cluster." : "";
  return `${score}${link.reason}${hangs}${weak}`;
}

/** The weakest of the links that hold the records together; none among fewer than three. */
export function weakestOf(links: readonly ClusterLink[]): ClusterLink | undefined {
  const holding = links.filter((link) => link.holds && link.score !== null);
  return holding.length > 1
    ? holding.reduce((least, link) => ((link.score ?? 0) < (least.score ?? 0) ? link : least))
    : undefined;
}

/** The links that hold a cluster together: records in a row, close ones side by side, an arc for every link. */
export function LinksDrawing({ cluster, order, marks, chosen, onChoose }: Props) {
  const place = new Map(order.map((record, index) => [record, index]));
  const step = Math.max(LEAST_STEP, Math.min(150, (WIDTH - 60) / Math.max(order.length - 1, 1)));
  const x = (record: number) => 30 + (place.get(record) ?? 0) * step;
  const width = Math.max(WIDTH, 60 + (order.length - 1) * step);
  const weakest = weakestOf(cluster.links);
  const byId = new Map(cluster.records.map((record) => [record.id, record]));
  const base = 150;
  const arc = ({ left_id, right_id }: ClusterLink) => {
    const [from, to] = [x(left_id), x(right_id)].sort((a, b) => a - b) as [number, number];
    const height = Math.min(base - 12, 18 + (to - from) * 0.32);
    return `M${from} ${base} C${from} ${base - height} ${to} ${base - height} ${to} ${base}`;
  };
  const drawn = [...cluster.links].sort((one, other) => Number(one.holds) - Number(other.holds));
  const holding = cluster.links.filter((link) => link.holds);
  return (
    <section
      aria-label="What holds it together"
      className="max-h-80 overflow-auto border-t border-line-strong bg-sheet px-4 py-1"
    >
      <svg width={width} height={base + DROP} viewBox={`0 0 ${width} ${base + DROP}`} aria-hidden="true">
        {drawn.map((link) => (
          <path
            key={`${link.left_id}-${link.right_id}`}
            d={arc(link)}
            fill="none"
            {...strokeOf(link, weakest, link === chosen)}
          >
            <title>{linkInWords(link, weakest)}</title>
          </path>
        ))}
        {order.map((record) => (
          <g key={record} transform={`translate(${x(record)} ${base})`}>
            <circle r="6" fill={(marks[record] ?? 1) > 1 ? "var(--plum)" : "var(--marine)"} />
            <text transform="rotate(32)" x="8" y="12" fontSize="11" fill="var(--soft)">
              {`${byId.get(record)?.source ?? ""} ${byId.get(record)?.source_key ?? ""}`}
            </text>
          </g>
        ))}
      </svg>
      <ol className="grid grid-cols-2 gap-x-4 pb-1 text-sm">
        {holding.map((link) => (
          <li key={`${link.left_id}-${link.right_id}`}>
            <button
              type="button"
              aria-pressed={link === chosen}
              className={`w-full truncate text-left hover:underline ${link === chosen ? "font-medium text-plum" : link === weakest || link.bridge ? "text-rust" : ""}`}
              title={linkInWords(link, weakest)}
              onClick={() => onChoose(link === chosen ? undefined : link)}
            >
              {`${byId.get(link.left_id)?.source_key ?? ""} – ${byId.get(link.right_id)?.source_key ?? ""}: ${linkInWords(link, weakest)}`}
            </button>
          </li>
        ))}
      </ol>
    </section>
  );
}
