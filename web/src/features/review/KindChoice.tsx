import { count } from "../../domain/format";
import { Choice } from "../../ui";
import { useKinds } from "./queries";

/** Which kind of doubt to look at, each with how many wait. */
export function KindChoice({
  slug,
  value,
  onChange,
}: {
  slug: string;
  value: string;
  onChange: (kind: string) => void;
}) {
  const kinds = useKinds(slug).data ?? [];
  const options = [
    { value: "", label: "Every kind of doubt" },
    ...kinds.map(({ kind, says, waiting }) => ({ value: kind, label: says, hint: count(waiting) })),
    // A kind of which nothing waits any more is still the one that is looked at.
    ...(value && !kinds.some(({ kind }) => kind === value)
      ? [{ value, label: "A kind of which none waits", hint: "0" }]
      : []),
  ];
  return <Choice label="Kind of doubt" value={value} options={options} onChange={onChange} className="w-48" />;
}
