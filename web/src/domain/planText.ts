import { type Document, isMap, isNode, isScalar, isSeq, parseDocument } from "yaml";

/** Where in a plan something stands: names of parts and places in lists, from the outside in. */
export type Place = readonly (string | number)[];

/** A plan as its text and as the parts that forms show; a text that is no YAML has no parts. */
export interface PlanText {
  text: string;
  document: Document.Parsed | null;
}

export function readPlan(text: string): PlanText {
  const document = parseDocument(text);
  return { text, document: document.errors.length === 0 && isMap(document.contents) ? document : null };
}

/** What stands at a place, as plain data; undefined where nothing does. */
export function at<T>(plan: PlanText, place: Place): T | undefined {
  const found: unknown = plan.document?.getIn(place);
  if (found === null || found === undefined) return undefined;
  const data = typeof found === "object" && "toJSON" in found ? (found as { toJSON: () => unknown }).toJSON() : found;
  return data as T;
}

/** The text with something else at a place; comments and everything beside it stay. `undefined` takes it away. */
export function withPart(plan: PlanText, place: Place, value: unknown): string {
  if (!plan.document) return plan.text;
  const changed = parseDocument(plan.text);
  if (value === undefined) {
    changed.deleteIn(place);
    dropEmpty(changed, place.slice(0, -1));
  } else {
    const before = changed.getIn(place, true);
    // A value in place of another keeps the comment beside it.
    if (isScalar(before) && typeof value !== "object") before.value = value;
    else changed.setIn(place, changed.createNode(value, { flow: isShort(value) }));
  }
  return changed.toString({ lineWidth: 120, flowCollectionPadding: false });
}

/** The text with an item put behind a list, which is made where there is none. */
export function withItem(plan: PlanText, place: Place, value: unknown): string {
  const list = at<unknown[]>(plan, place);
  if (!list) return withPart(plan, place, [value]);
  return withPart(plan, [...place, list.length], value);
}

/** The text with the items of a list in another order, each with the comments that stand at it. */
export function withOrder(plan: PlanText, place: Place, order: readonly number[]): string {
  if (!plan.document) return plan.text;
  const changed = parseDocument(plan.text);
  const list = changed.getIn(place);
  if (!isSeq(list)) return plan.text;
  const [first] = list.items;
  // What stands above the first item is said of it, not of the list.
  if (isNode(first) && list.commentBefore) {
    first.commentBefore = list.commentBefore;
    list.commentBefore = null;
  }
  list.items = order.map((number) => list.items[number]).filter((item) => item !== undefined);
  return changed.toString({ lineWidth: 120, flowCollectionPadding: false });
}

function dropEmpty(document: Document, place: Place) {
  const holder = place.length > 0 ? document.getIn(place) : undefined;
  if ((isMap(holder) || isSeq(holder)) && holder.items.length === 0) document.deleteIn(place);
}

/** Whether a value is written on one line. */
function isShort(value: unknown): boolean {
  return typeof value === "object" && value !== null && JSON.stringify(value).length < 100;
}

/** The text after some edits, each of what stands at a place; null takes it away. */
export function withEdits(plan: PlanText, edits: readonly { place: Place; value?: unknown }[]): string {
  return edits.reduce((text, { place, value }) => withPart(readPlan(text), place, value ?? undefined), plan.text);
}
