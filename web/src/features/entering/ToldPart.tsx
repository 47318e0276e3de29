import { Link } from "react-router";
import type { Told } from "./queries";

/** What the checks tell of what was typed: a warning, or that another one is forbidden. */
export function ToldPart({ slug, told }: { slug: string; told: readonly Told[] }) {
  return (
    <ul aria-label="What the checks tell" className="space-y-1">
      {told.map((one) => (
        <li
          key={one.check_id}
          className={`rounded-[3px] border p-2 text-sm ${one.forbids ? "border-rust bg-rust-wash" : "border-line-strong bg-sunk"}`}
        >
          <b className="font-semibold">{one.forbids ? "Forbidden" : "Look"}:</b> {one.says} is there with{" "}
          {one.golden_keys.map((key, place) => (
            <span key={key}>
              {place > 0 && ", "}
              <Link className="font-mono text-xs text-plum underline" to={`/r/${slug}/golden/${key}`} target="_blank">
                {key}
              </Link>
            </span>
          ))}
        </li>
      ))}
    </ul>
  );
}
