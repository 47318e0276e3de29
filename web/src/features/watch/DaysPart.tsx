import { byDay, type Decided } from "../../domain/watch";
import { CELL, Empty, Heads } from "../../ui";

const HIGH = 120;
const WIDE = 28;

/** Decisions per day as a drawing, and the table behind it: per person and day. */
export function DaysPart({ days, span }: { days: readonly Decided[]; span: number }) {
  if (days.length === 0) return <Empty title={`Nobody decided anything in ${span} days.`} />;
  const sums = byDay(days, span);
  const most = Math.max(...sums.map(({ total }) => total), 1);
  return (
    <section aria-label="Decisions per day">
      <h2 className="mb-2 font-semibold">Decisions per day</h2>
      <svg
        role="img"
        aria-label={`Decisions per day over ${span} days, at most ${most}`}
        width={sums.length * WIDE}
        height={HIGH + 22}
        className="max-w-full"
      >
        {sums.map(({ day, same, different, later, total }, place) => {
          const high = (count: number) => (count / most) * HIGH;
          const parts = [
            { count: same, fill: "var(--plum)" },
            { count: different, fill: "var(--soft)" },
            { count: later, fill: "var(--line-strong)" },
          ];
          let y = HIGH;
          return (
            <g key={day}>
              <title>{`${day}: ${same} same, ${different} different, ${later} later`}</title>
              {parts.map(({ count, fill }) => {
                y -= high(count);
                return <rect key={fill} x={place * WIDE + 3} y={y} width={WIDE - 6} height={high(count)} fill={fill} />;
              })}
              {total > 0 && (
                <text x={place * WIDE + WIDE / 2} y={y - 3} textAnchor="middle" className="fill-ink text-[10px]">
                  {total}
                </text>
              )}
              <text x={place * WIDE + WIDE / 2} y={HIGH + 14} textAnchor="middle" className="fill-soft text-[10px]">
                {day.slice(8)}
              </text>
            </g>
          );
        })}
      </svg>
      <table className="mt-3 w-full max-w-3xl text-sm">
        <thead>
          <Heads titles={["Day", "By", "Same", "Different", "Later"]} />
        </thead>
        <tbody>
          {days.map(({ day, actor, same, different, later }) => (
            <tr key={`${day} ${actor}`}>
              <td className={CELL}>{day}</td>
              <td className={CELL}>{actor}</td>
              <td className={CELL}>{same}</td>
              <td className={CELL}>{different}</td>
              <td className={CELL}>{later}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
