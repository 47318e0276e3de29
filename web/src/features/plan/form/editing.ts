import { at, type Place, type PlanText, withItem, withOrder, withPart } from "../../../domain/planText";

/** A plan as a form edits it: every edit gives the whole text anew, so that form and text are one plan. */
export interface Editing {
  get: <T>(place: Place) => T | undefined;
  set: (place: Place, value: unknown) => void;
  add: (place: Place, value: unknown) => void;
  drop: (place: Place) => void;
  order: (place: Place, order: readonly number[]) => void;
}

export function editingOf(plan: PlanText, onChange: (text: string) => void): Editing {
  return {
    get: (place) => at(plan, place),
    set: (place, value) => onChange(withPart(plan, place, value)),
    add: (place, value) => onChange(withItem(plan, place, value)),
    drop: (place) => onChange(withPart(plan, place, undefined)),
    order: (place, order) => onChange(withOrder(plan, place, order)),
  };
}
