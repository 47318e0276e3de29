import { type ReactNode, useState } from "react";
import { Choice } from "../../../ui";

const BOX = "h-7 rounded-[3px] border border-line-strong bg-sheet px-1.5 text-sm";

interface NumberProps {
  label: string;
  value: number | undefined;
  /** Shown where nothing is set: what counts then. */
  usual?: number | string;
  step?: number;
  onSet: (value: number | undefined) => void;
  width?: string;
}

/** A number that is taken over when the field is left or Enter is pressed; emptied, what is usual counts again. */
export function NumberInput({ label, value, usual = "", step = 0.5, onSet, width = "w-20" }: NumberProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const take = () => {
    if (typed === null) return;
    const text = typed.trim();
    setTyped(null);
    if (text === "") return value === undefined ? undefined : onSet(undefined);
    const number = Number(text);
    return Number.isFinite(number) && number !== value ? onSet(number) : undefined;
  };
  return (
    <input
      type="number"
      aria-label={label}
      step={step}
      value={typed ?? value ?? ""}
      placeholder={`${usual}`}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => event.key === "Enter" && take()}
      className={`${BOX} ${width} text-right font-mono placeholder:text-soft`}
    />
  );
}

/** A text that is taken over when the field is left or Enter is pressed. */
export function TextInput({
  label,
  value,
  onSet,
  width = "w-full",
  list,
}: {
  label: string;
  value: string;
  onSet: (value: string) => void;
  width?: string;
  list?: string;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const take = () => {
    if (typed !== null && typed.trim() !== "" && typed !== value) onSet(typed.trim());
    setTyped(null);
  };
  return (
    <input
      aria-label={label}
      value={typed ?? value}
      list={list}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => event.key === "Enter" && take()}
      className={`${BOX} ${width}`}
    />
  );
}

/** One of some words of the plan. */
export function WordChoice({
  label,
  value,
  words,
  onSet,
}: {
  label: string;
  value: string;
  words: readonly string[];
  onSet: (value: string) => void;
}) {
  const options = words.map((word) => ({ value: word, label: word }));
  return <Choice label={label} value={value} options={options} onChange={onSet} className="h-7! w-full" />;
}

/** A part of the form that opens: its name, and in one line what it says. */
export function Section({
  title,
  says,
  children,
  open = false,
}: {
  title: string;
  says: string;
  children: ReactNode;
  open?: boolean;
}) {
  return (
    <details open={open} className="border-b border-line">
      <summary className="cursor-pointer px-4 py-1.5 text-sm hover:bg-plum-wash">
        <span className="font-semibold">{title}</span> <span className="text-soft">{says}</span>
      </summary>
      <div className="px-4 pt-1 pb-3">{children}</div>
    </details>
  );
}

/** A quiet way to take something out of a list. */
export function DropButton({ label, onDrop }: { label: string; onDrop: () => void }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      onClick={onDrop}
      className="h-7 rounded-[3px] px-1.5 text-soft hover:bg-rust-wash hover:text-rust"
    >
      ×
    </button>
  );
}
