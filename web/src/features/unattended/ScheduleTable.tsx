import type { Source } from "../../api/sources";
import { moment } from "../../domain/format";
import { CELL, Empty, Faces, Heads, notify } from "../../ui";
import { type Schedule, useSchedules, useTurnNow } from "./queries";

interface Props {
  slug: string;
  sources: readonly Source[];
  onChange: (source: string) => void;
}

/** The sources with when they deliver by themselves. */
export function ScheduleTable({ slug, sources, onChange }: Props) {
  const now = useTurnNow(slug);
  return (
    <section aria-label="Schedules">
      <h2 className="font-semibold">When sources deliver</h2>
      <Faces query={useSchedules(slug)}>
        {(schedules) =>
          sources.length === 0 ? (
            <Empty title="There is no source yet.">
              <p>Bring in a first delivery by hand, so that it is known which column is what.</p>
            </Empty>
          ) : (
            <table className="w-full text-sm">
              <thead>
                <Heads titles={["Source", "When", "Next", "From", "Sends out", ""]} unseen="Change" />
              </thead>
              <tbody>
                {sources.map(({ name }) => {
                  const schedule = schedules.find(({ source }) => source === name);
                  return (
                    <tr key={name}>
                      <td className={`${CELL} font-medium`}>{name}</td>
                      <When schedule={schedule} />
                      <td className={`${CELL} text-right whitespace-nowrap`}>
                        {schedule?.on && (
                          <Act
                            label={`Let ${name} deliver now`}
                            disabled={now.isPending}
                            onAct={() => now.mutate(name, { onError: (error) => notify(error, true) })}
                          >
                            Now
                          </Act>
                        )}
                        <Act label={`When ${name} delivers`} onAct={() => onChange(name)}>
                          {schedule ? "Change" : "Set up"}
                        </Act>
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          )
        }
      </Faces>
    </section>
  );
}

interface ActProps {
  label: string;
  disabled?: boolean;
  onAct: () => void;
  children: string;
}

function Act({ label, disabled = false, onAct, children }: ActProps) {
  return (
    <button
      type="button"
      aria-label={label}
      disabled={disabled}
      onClick={onAct}
      className="ml-3 min-h-6 font-medium text-plum hover:underline disabled:text-soft"
    >
      {children}
    </button>
  );
}

function When({ schedule }: { schedule: Schedule | undefined }) {
  if (!schedule?.on)
    return (
      <td className={`${CELL} text-soft`} colSpan={4}>
        by hand
      </td>
    );
  return (
    <>
      <td className={CELL}>{schedule.says}</td>
      <td className={`${CELL} whitespace-nowrap`}>{schedule.next_at ? moment(schedule.next_at) : ""}</td>
      <td className={CELL}>
        {schedule.takes === "query" ? "its query" : <code className="font-mono text-xs">{schedule.folder}</code>}
      </td>
      <td className={CELL}>{schedule.sends.join(", ")}</td>
    </>
  );
}
