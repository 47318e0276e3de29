import type { InputHTMLAttributes, TextareaHTMLAttributes } from "react";
import { useId } from "react";

const BOX = "w-full rounded-[3px] border border-line-strong bg-sheet px-2 text-sm placeholder:text-soft";

export function TextField({
  label,
  hint,
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & { label: string; hint?: string }) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="mb-0.5 block text-sm font-medium">
        {label}
      </label>
      <input id={id} className={`${BOX} h-8`} {...rest} />
      {hint && <p className="mt-0.5 text-xs text-soft">{hint}</p>}
    </div>
  );
}

export function TextArea({ label, ...rest }: TextareaHTMLAttributes<HTMLTextAreaElement> & { label: string }) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="mb-0.5 block text-sm font-medium">
        {label}
      </label>
      <textarea id={id} className={`${BOX} py-1.5`} {...rest} />
    </div>
  );
}

/** A search box whose label is read out but not shown. */
export function Search({
  label,
  value,
  onChange,
  className = "w-60",
  autoFocus = false,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  className?: string;
  autoFocus?: boolean;
}) {
  return (
    <input
      type="search"
      aria-label={label}
      placeholder={label}
      value={value}
      autoFocus={autoFocus}
      onChange={(event) => onChange(event.target.value)}
      className={`h-8 rounded-[3px] border border-line-strong bg-sheet px-2 text-sm placeholder:text-soft ${className}`}
    />
  );
}
