import { counted } from "../../domain/format";
import { Button } from "../../ui";
import type { Policy } from "./queries";

const MOST = 5;

/** How many yeses, in order, and whose each of them is. */
export function LevelsPart({ policy, onChange }: { policy: Policy; onChange: (levels: string[][]) => void }) {
  const { levels, approvers } = policy;
  const setLevel = (place: number, named: string[]) =>
    onChange(levels.map((level, other) => (other === place ? named : level)));
  return (
    <fieldset className="text-sm">
      <legend className="mb-1 font-medium">Whose yes, in order</legend>
      <ol className="space-y-1">
        {levels.map((level, place) => (
          <li key={`${place + 1}`} className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line py-1">
            <span className="w-10 text-soft">{`${place + 1}.`}</span>
            {approvers.map((name) => (
              <label key={name} className="flex min-h-7 items-center gap-1.5">
                <input
                  type="checkbox"
                  className="accent-plum"
                  checked={level.includes(name)}
                  onChange={() =>
                    setLevel(place, level.includes(name) ? level.filter((other) => other !== name) : [...level, name])
                  }
                />
                {name}
              </label>
            ))}
            <span className="text-soft">{level.length === 0 ? "anybody who signs off" : ""}</span>
            {levels.length > 1 && (
              <Button small look="quiet" onClick={() => onChange(levels.filter((_, other) => other !== place))}>
                Take out
              </Button>
            )}
          </li>
        ))}
      </ol>
      {levels.length < MOST && (
        <Button small className="mt-1" onClick={() => onChange([...levels, []])}>
          Another yes after that
        </Button>
      )}
      <p className="mt-1 text-xs text-soft">Nobody signs off their own, and nobody gives two yeses to one thing.</p>
      {approvers.length > 0 && levels.length > approvers.length && (
        <p role="status" className="mt-1 text-rust">
          {`${levels.length} yeses, but only ${counted(approvers.length, "person signs off here", "people sign off here")}: nothing would get through.`}
        </p>
      )}
    </fieldset>
  );
}
