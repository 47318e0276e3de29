import { moment, share } from "../../../domain/format";
import type { MeasuredRule } from "./queries";

const WIDTH = 120;
const HEIGHT = 22;

/** How the share of failing records went from delivery to delivery, one line a source, drawn to one scale from none to all. */
export function Course({ rule }: { rule: MeasuredRule }) {
  const { history } = rule;
  if (history.length < 2)
    return (
      <span className="text-xs text-soft">{history.length === 1 ? "one delivery so far" : "no delivery yet"}</span>
    );
  const shareOf = ({ failing, records }: { failing: number; records: number }) => (records > 0 ? failing / records : 0);
  const most = Math.max(...history.map(shareOf), 0.01);
  const x = (place: number) => 3 + (place * (WIDTH - 6)) / (history.length - 1);
  const y = (past: { failing: number; records: number }) => HEIGHT - 3 - (shareOf(past) / most) * (HEIGHT - 6);
  const sources = [...new Set(history.map(({ source }) => source))];
  const told = history
    .map((past) => `${moment(past.at)} ${past.source}: ${share(past.failing, past.records)}`)
    .join("\n");
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      role="img"
      aria-label={`Failing over time, at most ${share(Math.round(most * 1000), 1000)}`}
    >
      <title>{told}</title>
      {sources.map((source) => {
        const points = history.map((past, place) => ({ past, place })).filter(({ past }) => past.source === source);
        return (
          <g key={source}>
            <polyline
              points={points.map(({ past, place }) => `${x(place)},${y(past)}`).join(" ")}
              fill="none"
              className="stroke-soft"
            />
            {points.map(({ past, place }) => (
              <circle key={place} cx={x(place)} cy={y(past)} r={2} className="fill-plum" />
            ))}
          </g>
        );
      })}
    </svg>
  );
}
