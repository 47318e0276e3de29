import { MenuButton, Menu as MenuFrame, MenuItem, MenuItems } from "@headlessui/react";
import type { ReactNode } from "react";
import { Link } from "react-router";

export interface MenuEntry {
  label: string;
  hint?: string;
  /** Where it leads: a screen, or a file that is fetched. */
  to?: string;
  href?: string;
  run?: () => void;
}

/** A menu that looks like the main button of a screen. */
export const MAIN_MENU =
  "inline-flex h-8 items-center rounded-[3px] border border-plum bg-plum px-2.5 text-sm font-medium text-plum-ink";
const ENTRY = "flex flex-col px-3 py-1.5 text-sm data-focus:bg-plum-wash";

/** A button that opens a list of places to go to. */
export function Menu({
  children,
  entries,
  className,
}: {
  children: ReactNode;
  entries: readonly MenuEntry[];
  className: string;
}) {
  return (
    <MenuFrame>
      <MenuButton className={className}>{children}</MenuButton>
      <MenuItems
        anchor={{ to: "bottom start", gap: 2 }}
        className="z-40 min-w-56 rounded-[3px] border border-line-strong bg-sheet py-1 shadow-[var(--shadow)] focus:outline-none"
      >
        {entries.map(({ label, hint, to, href, run }) => {
          const says = (
            <>
              <span className="font-medium">{label}</span>
              {hint && <span className="text-xs text-soft">{hint}</span>}
            </>
          );
          return (
            <MenuItem key={label}>
              {to ? (
                <Link to={to} className={ENTRY}>
                  {says}
                </Link>
              ) : run ? (
                <button type="button" onClick={run} className={`${ENTRY} w-full items-start`}>
                  {says}
                </button>
              ) : (
                <a href={href} download className={ENTRY}>
                  {says}
                </a>
              )}
            </MenuItem>
          );
        })}
      </MenuItems>
    </MenuFrame>
  );
}
