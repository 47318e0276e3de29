import { scaleLinear, scaleSymlog } from "d3-scale";
import { count } from "../../../domain/format";
import { PowerLines } from "../PowerLines";
import type { PassReport } from "../queries";

const WIDTH = 560;
const HEIGHT = 170;
const EDGE = { left: 44, right: 8, top: 22, bottom: 34 };

interface Props {
  histogram: PassReport["histogram"];
  same: number;
  unsure: number;
}

/** Compared pairs by score, in bins of one bit, with the two limits. Heights are logarithmic: different pairs are many. */
export function Histogram({ histogram, same, unsure }: Props) {
  const filled = histogram.counts
    .map((value, place) => ({ from: histogram.from + place, value }))
    .filter((bin) => bin.value > 0);
  const low = Math.min(filled[0]?.from ?? 0, Math.floor(unsure) - 2);
  const high = Math.max((filled.at(-1)?.from ?? 0) + 1, Math.ceil(same) + 2);
  const x = scaleLinear([low, high], [EDGE.left, WIDTH - EDGE.right]);
  const y = scaleSymlog([0, Math.max(...filled.map((bin) => bin.value), 10)], [HEIGHT - EDGE.bottom, EDGE.top]);
  const band = (from: number) => (from >= same ? "var(--plum)" : from >= unsure ? "var(--line-strong)" : "var(--line)");
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="w-full"
      role="img"
      aria-label="Compared pairs by score in bits; the figures stand in the table below"
    >
      <PowerLines most={y.domain()[1] ?? 0} y={y} left={EDGE.left} right={WIDTH - EDGE.right} />
      {filled.map((bin) => (
        <rect
          key={bin.from}
          x={x(bin.from) + 0.5}
          width={Math.max(x(bin.from + 1) - x(bin.from) - 1, 1)}
          y={y(bin.value)}
          height={HEIGHT - EDGE.bottom - y(bin.value)}
          fill={band(bin.from)}
        >
          <title>{`${bin.from} to ${bin.from + 1} bits: ${count(bin.value)} pairs`}</title>
        </rect>
      ))}
      {[
        { at: unsure, label: `unsure from ${unsure}`, anchor: "end" as const },
        { at: same, label: `same from ${same}`, anchor: "start" as const },
      ].map((limit) => (
        <g key={limit.label}>
          <line
            x1={x(limit.at)}
            x2={x(limit.at)}
            y1={EDGE.top - 8}
            y2={HEIGHT - EDGE.bottom}
            stroke="var(--ink)"
            strokeWidth="1.5"
          />
          <text
            x={x(limit.at) + (limit.anchor === "end" ? -4 : 4)}
            y={EDGE.top - 9}
            textAnchor={limit.anchor}
            fontSize="11"
            fill="var(--ink)"
          >
            {limit.label}
          </text>
        </g>
      ))}
      <line
        x1={EDGE.left}
        x2={WIDTH - EDGE.right}
        y1={HEIGHT - EDGE.bottom}
        y2={HEIGHT - EDGE.bottom}
        stroke="var(--line-strong)"
      />
      {x.ticks(10).map((tick) => (
        <text key={tick} x={x(tick)} y={HEIGHT - EDGE.bottom + 13} textAnchor="middle" fontSize="10" fill="var(--soft)">
          {tick}
        </text>
      ))}
      <text x={WIDTH - EDGE.right} y={HEIGHT - 4} textAnchor="end" fontSize="11" fill="var(--soft)">
        score in bits; height: pairs, logarithmic
      </text>
    </svg>
  );
}
