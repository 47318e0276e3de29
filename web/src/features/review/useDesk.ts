import { useInfiniteQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { keepWithin } from "../../api/keys";
import { type Queued, queueOptions, usePrefetch } from "./queries";
import { isFiltered, type QueueState, readState, writeState } from "./queueState";

/** So many doubts before the end of what is loaded the next ones are asked for. */
const REFILL_AT = 30;
/** How long after an answer without doubts, though some wait, it is asked again. */
const ASKED_AGAIN_MS = 4000;

/** Where a doubt is looked at: a pair face to face, a cluster as a table. */
export function placeOf(slug: string, doubt: Pick<Queued, "what" | "cluster" | "left_id" | "right_id">): string {
  return doubt.what === "cluster"
    ? `/r/${slug}/review/cluster/${doubt.cluster}`
    : `/r/${slug}/review/${doubt.left_id}/${doubt.right_id}`;
}

/** Where the desk stands: the queue by address, the doubt in view, and how to move on. */
export function useDesk() {
  const { slug = "", leftId = "", rightId = "", cluster = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const state = readState(params);
  const options = queueOptions(slug, state);
  const queue = useInfiniteQuery({ ...options, placeholderData: keepWithin(slug) });
  const doubts = queue.data?.pages.flatMap((page) => page.doubts) ?? [];
  const { waiting = 0, put_off = 0 } = queue.data?.pages[0] ?? {};
  const isHere = (doubt: Queued) =>
    cluster
      ? doubt.what === "cluster" && doubt.cluster === Number(cluster)
      : doubt.what === "pair" && doubt.left_id === Number(leftId) && doubt.right_id === Number(rightId);
  const place = leftId || cluster ? doubts.findIndex(isHere) : 0;
  const first = doubts[0];
  const inView = leftId
    ? { left: Number(leftId), right: Number(rightId), cluster: 0 }
    : cluster
      ? { left: 0, right: 0, cluster: Number(cluster) }
      : first?.what === "cluster"
        ? { left: 0, right: 0, cluster: first.cluster }
        : { left: first?.left_id ?? 0, right: first?.right_id ?? 0, cluster: 0 };
  usePrefetch(slug, doubts, place);
  useRefill(
    queue,
    doubts.length - Math.max(place, 0),
    doubts.length === 0 && waiting + put_off > 0 && !isFiltered(state),
  );

  const open = (doubt: Pick<Queued, "what" | "cluster" | "left_id" | "right_id"> | undefined) =>
    navigate({ pathname: doubt ? placeOf(slug, doubt) : `/r/${slug}/review`, search: params.toString() });
  const change = (values: Partial<QueueState>) => setParams(writeState({ ...state, ...values }), { replace: true });
  const step = (by: number) => {
    const next = doubts[Math.max(0, Math.min(doubts.length - 1, place + by))];
    if (next) open(next);
  };
  return { slug, state, queue, waiting, put_off, doubts, place, inView, options, open, change, step };
}

export type Desk = ReturnType<typeof useDesk>;

/** Ask for further doubts before the last one is reached, and anew when all that were loaded are decided. */
function useRefill(queue: Desk["queue"], ahead: number, isUsedUp: boolean) {
  const { hasNextPage, isFetching, fetchNextPage, refetch, dataUpdatedAt } = queue;
  useEffect(() => {
    if (isFetching) return;
    if (hasNextPage && ahead < REFILL_AT) void fetchNextPage();
    else if (isUsedUp) {
      // Just asked, and others have all that waits: it is looked again in a while.
      const pause = Date.now() - dataUpdatedAt < ASKED_AGAIN_MS ? ASKED_AGAIN_MS : 0;
      const waiting = setTimeout(() => void refetch(), pause);
      return () => clearTimeout(waiting);
    }
  }, [hasNextPage, isFetching, fetchNextPage, refetch, ahead, isUsedUp, dataUpdatedAt]);
}
