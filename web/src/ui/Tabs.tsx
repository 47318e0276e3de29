import { count } from "../domain/format";

export interface Tab<T extends string> {
  tab: T;
  label: string;
  title?: string;
  figure?: number | undefined;
}

/** What a list is filtered by, each with its count; the chosen one is pressed. */
export function Tabs<T extends string>({
  label,
  tabs,
  chosen,
  onChoose,
}: {
  label: string;
  tabs: readonly Tab<T>[];
  chosen: string;
  onChoose: (tab: T) => void;
}) {
  return (
    <nav aria-label={label} className="flex flex-wrap gap-1">
      {tabs.map((one) => (
        <button
          key={one.label}
          type="button"
          title={one.title}
          aria-pressed={chosen === one.tab}
          onClick={() => onChoose(one.tab)}
          className={`border-b-[3px] px-2 py-1 text-sm hover:bg-plum-wash ${
            chosen === one.tab ? "border-plum font-semibold" : "border-transparent"
          }`}
        >
          {one.label}
          {one.figure !== undefined && <span className="ml-1.5 font-mono text-xs text-soft">{count(one.figure)}</span>}
        </button>
      ))}
    </nav>
  );
}
