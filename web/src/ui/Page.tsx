import type { ReactNode } from "react";

/** A screen: its title line with actions, and a body whose panes scroll. */
export function Page({
  title,
  about,
  actions,
  children,
}: {
  title: string;
  about?: ReactNode;
  actions?: ReactNode;
  children: ReactNode;
}) {
  return (
    <div className="flex h-full min-h-0 flex-col">
      <header className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line px-4 py-2">
        <h1 className="text-lg font-semibold">{title}</h1>
        {about && <div className="text-sm text-soft">{about}</div>}
        <div className="ml-auto flex flex-wrap items-center gap-2">{actions}</div>
      </header>
      <div className="min-h-0 flex-1">{children}</div>
    </div>
  );
}

/** A pane that scrolls and can be reached by keyboard. */
export function Pane({ label, className = "", children }: { label: string; className?: string; children: ReactNode }) {
  return (
    <section aria-label={label} tabIndex={0} className={`min-h-0 overflow-auto ${className}`}>
      {children}
    </section>
  );
}

export const HEAD =
  "sticky top-0 z-10 bg-paper px-2 py-1 text-left text-xs font-semibold text-soft border-b border-line-strong";
/** The heads of a table's columns; an empty title is one that only a screen reader needs to hear. */
export function Heads({ titles, unseen = "" }: { titles: readonly string[]; unseen?: string }) {
  return (
    <tr>
      {titles.map((title) => (
        <th key={title} scope="col" className={HEAD}>
          {title || <span className="sr-only">{unseen}</span>}
        </th>
      ))}
    </tr>
  );
}

export const CELL = "px-2 py-1 align-top border-b border-line";
