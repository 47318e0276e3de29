import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";

export interface Option<T extends string> {
  value: T;
  label: string;
  hint?: string;
}

interface Props<T extends string> {
  label: string;
  value: T;
  options: readonly Option<T>[];
  onChange: (value: T) => void;
  className?: string;
  invalid?: boolean;
}

/** Choose one of a few; Space or the arrow keys open it. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  className = "",
  invalid = false,
}: Props<T>) {
  const chosen = options.find((option) => option.value === value);
  return (
    <Listbox value={value} onChange={onChange}>
      <ListboxButton
        aria-label={`${label}: ${chosen?.label ?? "none"}`}
        className={`flex h-8 items-center justify-between gap-2 rounded-[3px] border bg-sheet px-2 text-left text-sm ${
          invalid ? "border-rust" : "border-line-strong"
        } ${className}`}
      >
        <span className="truncate">{chosen?.label ?? "choose"}</span>
        <svg width="9" height="6" viewBox="0 0 9 6" aria-hidden="true">
          <path d="M0.5 0.5 4.5 5 8.5 0.5" fill="none" stroke="currentColor" />
        </svg>
      </ListboxButton>
      <ListboxOptions
        anchor={{ to: "bottom start", gap: 2 }}
        className="z-40 max-h-80 min-w-[var(--button-width)] rounded-[3px] border border-line-strong bg-sheet py-1 text-sm shadow-[var(--shadow)] focus:outline-none"
      >
        {options.map((option) => (
          <ListboxOption
            key={option.value}
            value={option.value}
            className="flex items-baseline justify-between gap-4 px-2.5 py-1 data-focus:bg-plum-wash data-selected:font-semibold"
          >
            <span>{option.label}</span>
            {option.hint && <span className="text-xs text-soft">{option.hint}</span>}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}
