import { STOP_NAMES, STOPS, type Stop, shareOf } from "../../domain/unattended";

interface Props {
  typed: Readonly<Record<Stop, string>>;
  onType: (typed: Record<Stop, string>) => void;
}

/** What holds a delivery, each as percent. */
export function StopsPart({ typed, onType }: Props) {
  return (
    <ul className="space-y-1">
      {STOP_NAMES.map((name) => (
        <li key={name} className="flex items-center gap-2">
          <span>{STOPS[name][0]}</span>
          <input
            aria-label={STOPS[name].join(" … ")}
            aria-invalid={shareOf(typed[name]) === null}
            inputMode="decimal"
            value={typed[name]}
            onChange={(event) => onType({ ...typed, [name]: event.target.value })}
            className={`h-7 w-16 rounded-[3px] border bg-sheet px-2 text-right text-sm ${
              shareOf(typed[name]) === null ? "border-rust" : "border-line-strong"
            }`}
          />
          <span>{STOPS[name][1]}</span>
        </li>
      ))}
      <li className="text-soft">and always if columns came or went</li>
    </ul>
  );
}
