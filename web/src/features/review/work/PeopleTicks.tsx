import { usePeople } from "../queries";

/** Choose some of those who may decide here. */
export function PeopleTicks({
  slug,
  label,
  chosen,
  onChange,
}: {
  slug: string;
  label: string;
  chosen: readonly string[];
  onChange: (people: string[]) => void;
}) {
  const people = [...new Set([...(usePeople(slug).data ?? []), ...chosen])].sort();
  return (
    <fieldset className="text-sm">
      <legend className="mb-0.5 font-medium">{label}</legend>
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        {people.map((name) => (
          <label key={name} className="flex min-h-7 items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-plum"
              checked={chosen.includes(name)}
              onChange={() =>
                onChange(chosen.includes(name) ? chosen.filter((other) => other !== name) : [...chosen, name])
              }
            />
            {name}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
