import { byDay, type Decided } from "../../domain/watch";
import { CELL, Empty, Heads } from "../../ui";

const HIGH = 120;
const WIDE = 28;
/** Room for the figure above the highest column. */
const ABOVE = 14;
const PARTS = [
  { name: "same", fill: "var(--plum)" },
  { name: "different", fill: "var(--soft)" },
  { name: "later", fill: "var(--line-strong)" },
] as const;

/** Decisions per day as a drawing, and the table behind it: per person and day. */
export function DaysPart({ days, span }: { days: readonly Decided[]; span: number }) {
  if (days.length === 0) return <Empty title={`Nobody decided anything in ${span} days.`} />;
  const sums = byDay(days, span);
  const most = Math.max(...sums.map(({ total }) => total), 1);
  return (
    <section aria-label="Decisions per day">
      <div className="mb-2 flex items-baseline gap-4">
        <h2 className="font-semibold">Decisions per day</h2>
        {PARTS.map(({ name, fill }) => (
          <span key={name} className="flex items-center gap-1.5 text-xs text-soft">
            <span aria-hidden="true" className="size-2.5" style={{ background: fill }} />
            {name}
          </span>
        ))}
      </div>
      <svg
        role="img"
        aria-label={`Decisions per day over ${span} days, at most ${most}`}
        width={sums.length * WIDE}
        height={ABOVE + HIGH + 22}
        className="max-w-full"
      >
        {sums.map((sum, place) => {
          const { day, total } = sum;
          const high = (count: number) => (count / most) * HIGH;
          let y = ABOVE + HIGH;
          return (
            <g key={day}>
              <title>{`${day}: ${sum.same} same, ${sum.different} different, ${sum.later} later`}</title>
              {PARTS.map(({ name, fill }) => {
                y -= high(sum[name]);
                return (
                  <rect key={name} x={place * WIDE + 3} y={y} width={WIDE - 6} height={high(sum[name])} fill={fill} />
                );
              })}
              {total > 0 && (
                <text x={place * WIDE + WIDE / 2} y={y - 3} textAnchor="middle" className="fill-ink text-[10px]">
                  {total}
                </text>
              )}
              <text
                x={place * WIDE + WIDE / 2}
                y={ABOVE + HIGH + 14}
                textAnchor="middle"
                className="fill-soft text-[10px]"
              >
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
