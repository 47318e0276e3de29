import { useEffect, useRef, useSyncExternalStore } from "react";
import type { Permission } from "../api/who";
import { useRefusal } from "./rights";

export interface KeyBinding {
  /** As in KeyboardEvent.key, lower case for letters. */
  key: string;
  label: string;
  /** The act that it is: where the person may not do it, the key says who may. */
  needs?: Permission;
  run: () => void;
}

let groups: readonly (readonly KeyBinding[])[] = [];
const listeners = new Set<() => void>();

function publish(next: readonly (readonly KeyBinding[])[]) {
  groups = next;
  for (const listener of listeners) listener();
}

function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName)) &&
    !(target instanceof HTMLInputElement && ["checkbox", "radio", "button"].includes(target.type))
  );
}

const isCovered = () => document.querySelector('[role="dialog"], [role="listbox"]') !== null;

/** The keys of the present screen, for the help that `?` opens. */
export function useShownKeys(): readonly KeyBinding[] {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => groups,
  ).flat();
}

/** Bind keys while a screen is shown; they rest while a person types or a dialog is open. */
export function useKeys(bindings: readonly KeyBinding[]) {
  const refusal = useRefusal();
  const latest = useRef(bindings);
  latest.current = bindings;
  const refused = useRef(refusal);
  refused.current = refusal;
  const signature = bindings.map((binding) => `${binding.key}:${binding.label}`).join("|");
  useEffect(() => {
    const shown = latest.current;
    publish([...groups, shown]);
    const onKeyDown = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target) || isCovered()) return;
      const pressed = event.key.length === 1 ? event.key.toLowerCase() : event.key;
      const found = latest.current.find((binding) => binding.key === pressed);
      if (!found) return;
      event.preventDefault();
      (refused.current(found.needs) ?? found.run)();
    };
    window.addEventListener("keydown", onKeyDown);
    return () => {
      window.removeEventListener("keydown", onKeyDown);
      publish(groups.filter((group) => group !== shown));
    };
  }, [signature]);
}
