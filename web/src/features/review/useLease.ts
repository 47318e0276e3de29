import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { client, unwrap } from "../../api/client";
import { deskId } from "../../api/me";
import { notify, useRights } from "../../ui";
import type { Queued } from "./queries";
import type { Desk } from "./useDesk";
import { useGoOn, without } from "./useVerdicts";

/** How often a desk says that it still has its doubts; they stay three minutes with one that says nothing. */
const RENEW_MS = 60_000;
/** So many doubts are kept for a desk beside the one in view, so that going on never leads to one that somebody else has. */
const AHEAD = 3;

/** How long an answer is waited for before the next request goes out. */
const PATIENCE_MS = 10_000;

/** The server keeps what a desk asked for last. So requests go out one after the other: they would overtake each other. */
let before: Promise<unknown> = Promise.resolve();
function inTurn(ask: () => Promise<unknown> | undefined) {
  // Nobody is kept from working by a lease that could not be asked for: the decision itself is checked again.
  before = before.then(ask).catch(() => undefined);
}

/** What a doubt is called in a lease: a pair by its records, a cluster twice by its number. */
const endsOf = ({ what, cluster, left_id, right_id }: Pick<Queued, "what" | "cluster" | "left_id" | "right_id">) =>
  (what === "cluster" ? [cluster, cluster] : [left_id, right_id]) as [number, number];

/** Have the doubt in view and the next ones for oneself; what another desk has leaves the list, and if it is in view, one goes on. */
export function useLease(desk: Desk) {
  const queries = useQueryClient();
  const { left, right, cluster } = desk.inView;
  const here: [number, number] = cluster ? [cluster, cluster] : [left, right];
  const from = Math.max(desk.place, 0);
  const wanted = [here, ...desk.doubts.slice(from, from + 1 + AHEAD).map(endsOf)].filter(([id]) => id > 0);
  const named = JSON.stringify(wanted);
  const goOn = useRef(useGoOn(desk));
  goOn.current = useGoOn(desk);
  const latest = useRef(desk);
  latest.current = desk;
  const { slug } = desk;
  // Who only looks keeps nothing from those who decide.
  const decides = useRights().may("decide");
  useEffect(() => {
    const doubts = JSON.parse(named) as [number, number][];
    if (doubts.length === 0 || !decides) return;
    let gone = false;
    const take = async () => {
      const body = { doubts, desk: deskId() };
      const taken = await unwrap(
        client.POST("/api/registers/{slug}/review/leases", {
          params: { path: { slug } },
          body,
          signal: AbortSignal.timeout(PATIENCE_MS),
        }),
      );
      for (const { left_id, right_id, holder } of taken) {
        const other = latest.current.doubts.find((doubt) => {
          const [one, two] = endsOf(doubt);
          return one === left_id && two === right_id;
        });
        // One that was reached by a link, not by the queue, may be looked at although it is decided.
        if (!gone && (holder || other) && left_id === doubts[0]?.[0] && right_id === doubts[0]?.[1]) {
          const who = holder ? `${holder} has this one at another desk` : "This one was decided meanwhile";
          notify(`${who}; here is the next.`);
          goOn.current(0);
        } else if (other)
          queries.setQueryData(latest.current.options.queryKey, (present) => present && without(present, other, 0));
      }
    };
    // What is in view no longer need not be asked for.
    const takeInTurn = () => inTurn(() => (gone ? undefined : take()));
    takeInTurn();
    const renewing = setInterval(takeInTurn, RENEW_MS);
    return () => {
      gone = true;
      clearInterval(renewing);
    };
  }, [queries, slug, named, decides]);
  useEffect(() => {
    const leave = () =>
      fetch(`/api/review/leases/${encodeURIComponent(deskId())}`, {
        method: "DELETE",
        keepalive: true,
        signal: AbortSignal.timeout(PATIENCE_MS),
      });
    const leaveAtOnce = () => void leave().catch(() => undefined);
    window.addEventListener("pagehide", leaveAtOnce);
    return () => {
      window.removeEventListener("pagehide", leaveAtOnce);
      inTurn(leave);
    };
  }, []);
}
