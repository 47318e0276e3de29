import type { ButtonHTMLAttributes } from "react";
import { Link, type LinkProps } from "react-router";
import type { Permission } from "../api/who";
import { useRefusal, useRights } from "./rights";

type Look = "plain" | "main" | "quiet";

const LOOKS: Record<Look, string> = {
  plain: "border border-line-strong bg-sheet hover:bg-plum-wash",
  main: "border border-plum bg-plum text-plum-ink hover:opacity-90",
  quiet: "border border-transparent text-plum underline-offset-2 hover:underline",
};
const SHAPE =
  "inline-flex items-center gap-2 rounded-[3px] px-2.5 text-sm font-medium whitespace-nowrap disabled:opacity-55";
const USUAL_HEIGHT = "h-8";

/** A key cap inside a button or a line of help. */
export function Key({ children }: { children: string }) {
  return <kbd className="rounded-[2px] border border-current/60 px-1 font-mono text-xs leading-4">{children}</kbd>;
}

type Props = ButtonHTMLAttributes<HTMLButtonElement> & {
  look?: Look;
  /** As high as a line of a table. */
  small?: boolean;
  /** The act that it is: where the person may not do it, the button says who may. */
  needs?: Permission;
  everywhere?: boolean;
};

export function Button({ look = "plain", small = false, className = "", needs, everywhere = false, ...rest }: Props) {
  const refusal = useRefusal()(needs, everywhere);
  const says = useRights().says;
  const shape = `${SHAPE} ${small ? "h-6" : USUAL_HEIGHT} ${LOOKS[look]} ${className}`;
  if (!refusal || !needs) return <button type="button" className={shape} {...rest} />;
  return (
    <button
      type="button"
      className={`${shape} opacity-55`}
      {...rest}
      aria-disabled="true"
      title={says(needs)}
      onClick={(event) => {
        event.preventDefault();
        refusal();
      }}
    />
  );
}

/** A link that looks like a button; not shown to who may not do what it leads to. */
export function LinkButton({
  look = "plain",
  className = "",
  needs,
  ...rest
}: LinkProps & { look?: Look; needs?: Permission }) {
  const { may } = useRights();
  if (needs && !may(needs)) return null;
  return <Link className={`${SHAPE} ${USUAL_HEIGHT} ${LOOKS[look]} ${className}`} {...rest} />;
}
