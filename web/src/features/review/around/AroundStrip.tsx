import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Schemas } from "../../../api/client";
import { counted } from "../../../domain/format";
import { Key } from "../../../ui";
import { contextOptions, neighboursOptions, type Pair } from "../queries";

type Neighbours = Schemas["NeighboursOut"];
type Context = Schemas["ContextOut"];

/** Who else holds a value, in words: "4 other records share this phone". */
export function sharedBy({ label, others, at_least, shared }: Neighbours): string {
  const what = label.charAt(0).toLowerCase() + label.slice(1);
  if (others === 0) return `nobody else has this ${what}`;
  const many = `${at_least ? "more than " : ""}${counted(others, "other record")}`;
  const one = others === 1 && !at_least;
  return shared
    ? `${many} ${one ? "shares" : "share"} this ${what}`
    : `${many} ${one ? "holds" : "hold"} one side's ${what}`;
}

/** How a *same* would change the golden records: how many values of either side would be others. */
export function changesOf({ left_golden, right_golden, together }: Context): string[] {
  const names = [...new Set([...Object.keys(left_golden), ...Object.keys(right_golden)])];
  const changes = (side: Record<string, string>) =>
    names.filter((name) => side[name] && side[name] !== together[name] && together[name] !== undefined);
  return [...new Set([...changes(left_golden), ...changes(right_golden)])];
}

/** How long a pair is in view before it is asked what stands around it: who steps through quickly wants the next pair. */
const STAYS_MS = 350;

/** Whether the same thing has been in view for a moment. */
function useStays(what: string): boolean {
  const [stays, setStays] = useState("");
  useEffect(() => {
    const waiting = setTimeout(() => setStays(what), STAYS_MS);
    return () => clearTimeout(waiting);
  }, [what]);
  return stays === what;
}

/** What stands around a pair in one line; the panel beside the sheet says all of it. */
export function AroundStrip({ slug, pair, onOpen }: { slug: string; pair: Pair; onOpen: () => void }) {
  const stays = useStays(`${pair.left.id} ${pair.right.id}`);
  const neighbours = useQuery({ ...neighboursOptions(slug, pair.left.id, pair.right.id), enabled: stays }).data;
  const context = useQuery({ ...contextOptions(slug, pair.left.id, pair.right.id), enabled: stays }).data;
  const told = [
    ...(neighbours ?? []).filter(({ shared }) => shared).map(sharedBy),
    context && context.left_cluster.length + context.right_cluster.length > 0
      ? `with ${context.left_cluster.length} and ${counted(context.right_cluster.length, "other record")} in their clusters`
      : "",
    context && context.said.length > 0 ? `${counted(context.said.length, "earlier decision")}` : "",
  ].filter(Boolean);
  return (
    <button
      type="button"
      onClick={onOpen}
      className="flex min-h-8 w-full items-center gap-3 border-t border-line bg-sunk px-4 py-1 text-left text-sm hover:bg-plum-wash"
    >
      <span className="min-w-0 flex-1 truncate text-soft">
        {told.length > 0 ? told.join(" · ") : "Around this pair"}
      </span>
      <span className="font-medium whitespace-nowrap text-plum">
        Around it <Key>N</Key>
      </span>
    </button>
  );
}
