import type { ButtonHTMLAttributes } from "react";
import { Link, type LinkProps } from "react-router";

type Look = "plain" | "main" | "quiet";

const LOOKS: Record<Look, string> = {
  plain: "border border-line-strong bg-sheet hover:bg-plum-wash",
  main: "border border-plum bg-plum text-plum-ink hover:opacity-90",
  quiet: "border border-transparent text-plum underline-offset-2 hover:underline",
};
const SHAPE =
  "inline-flex items-center gap-2 rounded-[3px] px-2.5 h-8 text-sm font-medium whitespace-nowrap disabled:opacity-55";

/** A key cap inside a button or a line of help. */
export function Key({ children }: { children: string }) {
  return <kbd className="rounded-[2px] border border-current/60 px-1 font-mono text-xs leading-4">{children}</kbd>;
}

export function Button({
  look = "plain",
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look }) {
  return <button type="button" className={`${SHAPE} ${LOOKS[look]} ${className}`} {...rest} />;
}

export function LinkButton({ look = "plain", className = "", ...rest }: LinkProps & { look?: Look }) {
  return <Link className={`${SHAPE} ${LOOKS[look]} ${className}`} {...rest} />;
}
