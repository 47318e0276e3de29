import { useState } from "react";
import { groupsOf } from "../../../domain/cluster";

/** How records are marked for groups, and which column the keys speak of. */
export function useMarks(records: readonly number[]) {
  const [marks, setMarks] = useState<Record<number, number>>({});
  const [cursor, setCursor] = useState(0);
  const groups = groupsOf(records, marks);
  const mark = (members: readonly number[], group: number) =>
    setMarks((present) => ({ ...present, ...Object.fromEntries(members.map((record) => [record, group])) }));
  /** Take records out of the first group into the second, or put them back. */
  const toggle = (members: readonly number[]) =>
    mark(members, members.every((record) => (marks[record] ?? 1) > 1) ? 1 : 2);
  return { marks, groups, cursor, setCursor, mark, toggle, setMarks };
}
