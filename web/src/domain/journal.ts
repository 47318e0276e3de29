/** What an entry says of something: a name, and its value as text. */
export interface Said {
  name: string;
  value: string;
}
export interface Changed {
  name: string;
  before: string;
  after: string;
}

type Tree = Record<string, unknown>;

const isTree = (value: unknown): value is Tree => typeof value === "object" && value !== null && !Array.isArray(value);

function asText(value: unknown): string {
  if (value === null || value === undefined || value === "") return "–";
  return typeof value === "string" ? value : JSON.stringify(value, null, 1);
}

/** Shown elsewhere, or said in the summary already. */
const SHOWN_ELSEWHERE = new Set(["summary", "moves", "before", "after", "was", "value"]);

/** An entry's data and values as what was before and after, by name where they are trees, and the rest. */
export function beforeAndAfter(data: Tree, values: Tree | null): { changes: Changed[]; rest: Said[] } {
  const all: Tree = { ...data, ...values };
  const [was, is] = "before" in all || "after" in all ? [all.before, all.after] : [all.was, all.value];
  const changes: Changed[] = [];
  if (isTree(was) || isTree(is)) {
    const [one, other] = [isTree(was) ? was : {}, isTree(is) ? is : {}];
    for (const name of new Set([...Object.keys(one), ...Object.keys(other)]))
      if (JSON.stringify(one[name]) !== JSON.stringify(other[name]))
        changes.push({ name, before: asText(one[name]), after: asText(other[name]) });
  } else if (was !== undefined || is !== undefined)
    changes.push({ name: typeof all.field === "string" ? all.field : "value", before: asText(was), after: asText(is) });
  const rest = Object.entries(all)
    .filter(([name, value]) => !SHOWN_ELSEWHERE.has(name) && !(Array.isArray(value) && value.length === 0))
    .map(([name, value]) => ({ name, value: asText(value) }));
  return { changes, rest };
}
