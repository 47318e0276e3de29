import { scaleLinear } from "d3-scale";
import type { Measured, Quality } from "./queries";

const WIDTH = 640;
const HEIGHT = 170;
const EDGE = { left: 40, right: 10, top: 18, bottom: 28 };
const LINES: { name: keyof Quality; label: string; colour: string }[] = [
  { name: "precision", label: "precision", colour: "var(--marine)" },
  { name: "recall", label: "recall", colour: "var(--rust)" },
];

/** Precision and recall by the limit of the same, with their margins; the limit of the plan is marked. */
export function QualityCurve({ measured }: { measured: Measured }) {
  const { along, own } = measured;
  const lows = along.flatMap(({ quality }) => [quality.precision.low, quality.recall.low]);
  const floor = Math.min(0.9, Math.floor(10 * Math.min(...lows)) / 10);
  const limits = along.map(({ limit }) => limit);
  const x = scaleLinear([Math.min(...limits), Math.max(...limits)], [EDGE.left, WIDTH - EDGE.right]);
  const y = scaleLinear([floor, 1], [HEIGHT - EDGE.bottom, EDGE.top]);
  const points = (name: keyof Quality, part: "low" | "value" | "high") =>
    along.map(({ limit, quality }) => `${x(limit).toFixed(1)},${y(quality[name][part]).toFixed(1)}`);
  return (
    <figure>
      <figcaption className="sr-only">
        Precision and recall by the limit of the same, from {Math.min(...limits)} to {Math.max(...limits)} bits
      </figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" aria-hidden="true">
        {y.ticks(4).map((tick) => (
          <g key={tick}>
            <line x1={EDGE.left} x2={WIDTH - EDGE.right} y1={y(tick)} y2={y(tick)} stroke="var(--line)" />
            <text x={EDGE.left - 5} y={y(tick) + 4} textAnchor="end" fontSize="11" fill="var(--soft)">
              {Math.round(100 * tick)} %
            </text>
          </g>
        ))}
        {x.ticks(8).map((tick) => (
          <text
            key={tick}
            x={x(tick)}
            y={HEIGHT - EDGE.bottom + 14}
            textAnchor="middle"
            fontSize="11"
            fill="var(--soft)"
          >
            {tick}
          </text>
        ))}
        {LINES.map(({ name, colour }) => (
          <g key={name}>
            <polygon
              points={[...points(name, "high"), ...points(name, "low").reverse()].join(" ")}
              fill={colour}
              opacity="0.14"
            />
            <polyline points={points(name, "value").join(" ")} fill="none" stroke={colour} strokeWidth="2" />
          </g>
        ))}
        <line
          x1={x(own.limit)}
          x2={x(own.limit)}
          y1={EDGE.top}
          y2={HEIGHT - EDGE.bottom}
          stroke="var(--ink)"
          strokeWidth="1.5"
        />
        <text x={x(own.limit)} y={EDGE.top - 5} textAnchor="middle" fontSize="11.5" fill="var(--ink)">
          same from {own.limit}
        </text>
        {LINES.map(({ name, label, colour }, place) => (
          <g
            key={name}
            transform={`translate(${EDGE.left + place * 90} ${HEIGHT - 3})`}
            fontSize="11"
            fill="var(--soft)"
          >
            <rect y={-8} width={9} height={9} fill={colour} />
            <text x={13}>{label}</text>
          </g>
        ))}
        <text x={WIDTH - EDGE.right} y={HEIGHT - 3} textAnchor="end" fontSize="11" fill="var(--soft)">
          limit in bits; the bands hold the figure 95 times in a hundred
        </text>
      </svg>
    </figure>
  );
}
