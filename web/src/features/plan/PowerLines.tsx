import { count } from "../../domain/format";

const POWERS = [1, 10, 100, 1000, 10000, 100000, 1000000];

interface Props {
  most: number;
  y: (value: number) => number;
  left: number;
  right: number;
}

/** The lines of a logarithmic height, one per power of ten, each with its number. */
export function PowerLines({ most, y, left, right }: Props) {
  return POWERS.filter((power) => power <= most).map((power) => (
    <g key={power}>
      <line x1={left} x2={right} y1={y(power)} y2={y(power)} stroke="var(--line)" strokeDasharray="1 3" />
      <text x={left - 5} y={y(power) + 3} textAnchor="end" fontSize="10" fill="var(--soft)">
        {count(power)}
      </text>
    </g>
  ));
}
