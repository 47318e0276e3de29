export type Edge = readonly [number, number];

/** The groups into which records fall if one link goes, the one with the smallest record first. */
export function sidesWithout(records: readonly number[], edges: readonly Edge[], gone: Edge): number[][] {
  const leader = new Map(records.map((record) => [record, record]));
  const of = (record: number): number => {
    let found = record;
    while (leader.get(found) !== found) found = leader.get(found) ?? found;
    leader.set(record, found);
    return found;
  };
  for (const [one, other] of edges) {
    if ((one === gone[0] && other === gone[1]) || !leader.has(one) || !leader.has(other)) continue;
    const [a, b] = [of(one), of(other)];
    if (a !== b) leader.set(Math.max(a, b), Math.min(a, b));
  }
  const groups = new Map<number, number[]>();
  for (const record of [...records].sort((a, b) => a - b)) {
    const name = of(record);
    groups.set(name, [...(groups.get(name) ?? []), record]);
  }
  return [...groups.values()];
}

/** Records by the group that each is marked for, groups in order; unmarked ones stand in the first. */
export function groupsOf(records: readonly number[], marks: Readonly<Record<number, number>>): number[][] {
  const groups = new Map<number, number[]>();
  for (const record of records) {
    const group = marks[record] ?? 1;
    groups.set(group, [...(groups.get(group) ?? []), record]);
  }
  return [...groups.entries()].sort(([a], [b]) => a - b).map(([, members]) => members);
}

/** Marks that put every group of records where it belongs, the largest first. */
export function marksOf(groups: readonly (readonly number[])[]): Record<number, number> {
  const bySize = [...groups].sort((a, b) => b.length - a.length);
  return Object.fromEntries(bySize.flatMap((group, place) => group.map((record) => [record, place + 1])));
}

/** Columns of a table: one a record, or one for several that hold the same, unless these were unfolded. */
export function columnsOf(
  records: readonly number[],
  alike: readonly (readonly number[])[],
  folded: boolean,
  unfolded: ReadonlySet<number>,
): number[][] {
  if (!folded) return records.map((record) => [record]);
  const together = new Map<number, readonly number[]>();
  for (const group of alike) {
    const first = group[0];
    if (first !== undefined && !unfolded.has(first)) for (const record of group) together.set(record, group);
  }
  const shown = new Set<number>();
  const columns: number[][] = [];
  for (const record of records) {
    if (shown.has(record)) continue;
    const group = [...(together.get(record) ?? [record])];
    for (const member of group) shown.add(member);
    columns.push(group);
  }
  return columns;
}
