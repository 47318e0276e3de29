import { scaleLinear } from "d3-scale";
import { lanes, likelihood, type Segment } from "../../domain/evidence";
import { bits } from "../../domain/format";
import type { Pair } from "./queries";

const WIDTH = 940;
const LANE = 22;
const TOP = 20;

function Lane({
  segments,
  x,
  y,
  fill,
}: {
  segments: readonly Segment[];
  x: (value: number) => number;
  y: number;
  fill: string;
}) {
  return segments.map((segment) => {
    const from = Math.min(x(segment.from), x(segment.to));
    const width = Math.abs(x(segment.to) - x(segment.from));
    const text = `${segment.label} ${bits(segment.bits)}`;
    return (
      <g key={segment.label}>
        <rect x={from + 1} y={y} width={Math.max(width - 2, 1)} height={LANE} fill={fill} stroke="var(--line-strong)" />
        {width > text.length * 6.1 && (
          <text x={from + width / 2} y={y + 15} textAnchor="middle" fontSize="11.5" fill="var(--ink)">
            {text}
          </text>
        )}
        <title>{`${text} bits: ${segment.sentence}`}</title>
      </g>
    );
  });
}

/** All evidence to one scale: for the pair above, against it below, the sum as a pointer, the limits of the bands. */
export function EvidenceScale({ pair }: { pair: Pair }) {
  const { pro, contra } = lanes(pair.evidence);
  const low = Math.min(contra.at(-1)?.to ?? 0, pair.score, -2) - 1;
  const high = Math.max(pro.at(-1)?.to ?? 0, pair.same_from, pair.score) + 2;
  const x = scaleLinear([low, high], [16, WIDTH - 16]);
  const bottom = TOP + 2 * LANE + 4;
  const limits = [
    { at: pair.unsure_from, label: "unsure from" },
    { at: pair.same_from, label: "same from" },
  ];
  const likely = pair.probability === null ? "" : `, ${likelihood(pair.probability)} likely the same`;
  const sum = `sum ${bits(pair.score)}${likely}`;
  const words = pair.evidence.filter((item) => item.bits !== 0).map((item) => `${item.label} ${bits(item.bits)}`);
  return (
    <figure className="border-t border-line-strong px-4 pt-1">
      <figcaption className="sr-only">{`Evidence in bits: ${words.join(", ")}; ${sum}`}</figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${bottom + 30}`} className="w-full" aria-hidden="true">
        {limits.map((limit) => (
          <g key={limit.label}>
            <line
              x1={x(limit.at)}
              x2={x(limit.at)}
              y1={TOP - 5}
              y2={bottom}
              stroke="var(--ink)"
              strokeDasharray="3 3"
            />
            <text
              x={x(limit.at)}
              y={TOP - 8}
              textAnchor="middle"
              fontSize="11"
              fill="var(--soft)"
            >{`${limit.label} ${limit.at}`}</text>
          </g>
        ))}
        <Lane segments={pro} x={x} y={TOP} fill="var(--plum-wash)" />
        <Lane segments={contra} x={x} y={TOP + LANE + 4} fill="var(--sunk)" />
        <line x1={x(0)} x2={x(0)} y1={TOP - 5} y2={bottom + 4} stroke="var(--ink)" strokeWidth="1.5" />
        <text
          x={x(0) + (pair.score >= 0 ? -8 : 8)}
          y={bottom + 14}
          textAnchor={pair.score >= 0 ? "end" : "start"}
          fontSize="11"
          fill="var(--soft)"
        >
          even odds
        </text>
        <path d={`M${x(pair.score)} ${bottom} l-5 9 h10 z`} fill="var(--plum)" />
        <text
          x={x(pair.score) + (pair.score >= 0 ? 9 : -9)}
          y={bottom + 12}
          textAnchor={pair.score >= 0 ? "start" : "end"}
          fontSize="12"
          fontWeight="600"
          fill="var(--plum)"
        >
          {sum}
        </text>
      </svg>
    </figure>
  );
}
