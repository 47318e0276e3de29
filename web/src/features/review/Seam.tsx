import { gape, stitches } from "../../domain/evidence";
import { bits as bitsText } from "../../domain/format";

const HEIGHT = 26;
const WIDTH = 74;

interface Props {
  bits: number | undefined;
  level: string | undefined;
}

/**
 * The seam between two values: two edges, marine and rust. Where they agree they are stitched together, one stitch for
 * every two bits; where they differ the edges gape, the wider the stronger; where one is missing there is a loose thread.
 */
export function Seam({ bits, level }: Props) {
  if (bits === undefined) return null;
  const open = gape(bits) * 16;
  const count = stitches(bits);
  const missing = level === "missing";
  const left = WIDTH / 2 - 5;
  const right = WIDTH / 2 + 5;
  const middle = HEIGHT / 2;
  return (
    <span className="flex items-center justify-center gap-1" title={level}>
      <svg width={WIDTH} height={HEIGHT} viewBox={`0 0 ${WIDTH} ${HEIGHT}`} aria-hidden="true">
        <path
          d={`M${left} 0 Q${left - open} ${middle} ${left} ${HEIGHT}`}
          fill="none"
          stroke="var(--marine)"
          strokeWidth="2"
          strokeDasharray={missing ? "2 4" : undefined}
        />
        <path
          d={`M${right} 0 Q${right + open} ${middle} ${right} ${HEIGHT}`}
          fill="none"
          stroke="var(--rust)"
          strokeWidth="2"
          strokeDasharray={missing ? "2 4" : undefined}
        />
        {Array.from({ length: count }, (_, place) => {
          const y = ((place + 0.5) * HEIGHT) / count;
          return (
            <line
              key={place}
              x1={left - 5}
              x2={right + 5}
              y1={y}
              y2={y}
              stroke="var(--ink)"
              strokeWidth="1.6"
              strokeLinecap="round"
            />
          );
        })}
      </svg>
      <span className="w-10 text-right font-mono text-xs">{missing ? "" : bitsText(bits)}</span>
      <span className="sr-only">{`${level}, ${bitsText(bits)} bits`}</span>
    </span>
  );
}
