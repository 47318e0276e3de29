import { useState } from "react";
import { STOP_NAMES, type Stop, shareOf } from "../../domain/unattended";
import { Button, Choice, Modal, TextField } from "../../ui";
import { type Schedule, type ScheduleIn, useSchedules, useSetSchedule } from "./queries";
import { StopsPart } from "./StopsPart";

const SENDS = ["golden.csv", "crosswalk.csv", "changes.jsonl"] as const;
const USUAL: Record<Stop, number> = { least_rows: 0.5, most_aside: 0.1, rule_fall: 0.05, most_golden: 0.2 };
const percent = (share: number) => String(Math.round(share * 1000) / 10);

interface Props {
  slug: string;
  source: string;
  /** Whether the source has a query that can be asked. */
  asked: boolean;
  onClose: () => void;
}

/** When a source delivers by itself, and what holds a delivery. */
export function ScheduleDialog(props: Props) {
  const schedules = useSchedules(props.slug).data;
  if (!schedules) return null;
  return <Form {...props} schedule={schedules.find(({ source }) => source === props.source)} />;
}

function Form({ slug, source, asked, onClose, schedule }: Props & { schedule: Schedule | undefined }) {
  const set = useSetSchedule(slug, source);
  const [times, setTimes] = useState(schedule?.times ?? "30 2 * * *");
  const [takes, setTakes] = useState<ScheduleIn["takes"]>(schedule?.takes ?? (asked ? "query" : "folder"));
  const [sends, setSends] = useState<readonly (typeof SENDS)[number][]>(schedule?.sends ?? []);
  const [typed, setTyped] = useState<Record<Stop, string>>(() => {
    const stops: Record<Stop, number> = { ...USUAL, ...schedule?.stops };
    const shown = STOP_NAMES.map((name) => [name, percent(stops[name])] as const);
    return Object.fromEntries(shown) as Record<Stop, string>;
  });
  const shares = STOP_NAMES.map((name) => [name, shareOf(typed[name])] as const);
  const wrong = shares.some(([, share]) => share === null);
  const save = (on: boolean) =>
    set.mutate(
      {
        times,
        takes,
        on,
        sends: [...sends],
        stops: Object.fromEntries(shares) as ScheduleIn["stops"] & object,
        seen_version: schedule?.version ?? 0,
      },
      { onSuccess: onClose },
    );
  return (
    <Modal title={`When ${source} delivers`} onClose={onClose} wide>
      <div className="grid grid-cols-[9rem_1fr] items-start gap-x-3 gap-y-3 text-sm">
        <span className="pt-1 text-soft">At</span>
        <TextField
          label="Times"
          hint="minute, hour, day, month, weekday, as in cron: 30 2 * * * is every night at 2:30"
          value={times}
          onChange={(event) => setTimes(event.target.value)}
        />
        <span className="pt-1 text-soft">Takes</span>
        <Choice
          label="Takes"
          value={takes}
          onChange={setTakes}
          className="w-80"
          options={[
            ...(asked ? [{ value: "query" as const, label: "what its query gives" }] : []),
            { value: "folder" as const, label: `the files in incoming/${slug}/${source}` },
          ]}
        />
        <span className="pt-1 text-soft">Held if</span>
        <StopsPart typed={typed} onType={setTyped} />
        <span className="pt-1 text-soft">Sends out</span>
        <div className="flex gap-4 pt-1">
          {SENDS.map((name) => (
            <label key={name} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="accent-plum"
                checked={sends.includes(name)}
                onChange={(event) =>
                  setSends(event.target.checked ? [...sends, name] : sends.filter((one) => one !== name))
                }
              />
              {name}
            </label>
          ))}
        </div>
      </div>
      {set.error && (
        <p role="alert" className="mt-3 text-sm font-medium text-rust">
          {set.error.message}
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        {schedule?.on && (
          <Button disabled={set.isPending || wrong} onClick={() => save(false)}>
            Deliver by hand
          </Button>
        )}
        <Button look="main" disabled={set.isPending || wrong} onClick={() => save(true)}>
          Deliver by itself
        </Button>
      </div>
    </Modal>
  );
}
