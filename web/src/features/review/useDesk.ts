import { type InfiniteData, useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { keepWithin } from "../../api/keys";
import { notify } from "../../ui";
import {
  type Order,
  ownDecisionsOptions,
  type Pair,
  type Queue,
  type QueuedPair,
  queueOptions,
  useDecide,
  usePrefetch,
  useWithdraw,
  type Verdict,
} from "./queries";

const ORDERS: readonly Order[] = ["doubt", "score", "cluster"];
/** So many pairs before the end of what is loaded the next ones are asked for. */
const REFILL_AT = 30;

/** Where the desk stands: the queue by address, the pair in view, and how to move on. */
export function useDesk() {
  const { slug = "", leftId = "", rightId = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const order = ORDERS.find((name) => name === params.get("order")) ?? "doubt";
  const search = params.get("search") ?? "";
  const kind = params.get("kind") ?? "";
  const options = queueOptions(slug, order, search, kind);
  const queue = useInfiniteQuery({ ...options, placeholderData: keepWithin(slug) });
  const pairs = queue.data?.pages.flatMap((page) => page.pairs) ?? [];
  const { waiting = 0, put_off = 0 } = queue.data?.pages[0] ?? {};
  const place = leftId
    ? pairs.findIndex((pair) => pair.left_id === Number(leftId) && pair.right_id === Number(rightId))
    : 0;
  const first = pairs[0];
  const inView = leftId
    ? { left: Number(leftId), right: Number(rightId) }
    : { left: first?.left_id ?? 0, right: first?.right_id ?? 0 };
  usePrefetch(slug, pairs, place);
  useRefill(queue, pairs.length - Math.max(place, 0), pairs.length === 0 && waiting + put_off > 0 && !search && !kind);

  const open = (pair: { left_id: number; right_id: number } | undefined) =>
    navigate({
      pathname: pair ? `/r/${slug}/review/${pair.left_id}/${pair.right_id}` : `/r/${slug}/review`,
      search: params.toString(),
    });
  const change = (name: string, value: string) =>
    setParams(
      (present) => {
        if (value) present.set(name, value);
        else present.delete(name);
        return present;
      },
      { replace: true },
    );
  const step = (by: number) => {
    const next = pairs[Math.max(0, Math.min(pairs.length - 1, place + by))];
    if (next) open(next);
  };
  return { slug, order, search, kind, queue, waiting, put_off, pairs, place, inView, options, open, change, step };
}

type Desk = ReturnType<typeof useDesk>;

/** Ask for further pairs before the last one is reached, and anew when all that were loaded are decided. */
function useRefill(queue: Desk["queue"], ahead: number, isUsedUp: boolean) {
  const { hasNextPage, isFetching, fetchNextPage, refetch } = queue;
  useEffect(() => {
    if (isFetching) return;
    if (hasNextPage && ahead < REFILL_AT) void fetchNextPage();
    else if (isUsedUp) void refetch();
  }, [hasNextPage, isFetching, fetchNextPage, refetch, ahead, isUsedUp]);
}

/** The queue without a pair that was decided. */
function without<T>(data: InfiniteData<Queue, T>, gone: QueuedPair): InfiniteData<Queue, T> {
  const pages = data.pages.map((page) => ({
    ...page,
    waiting: page.waiting - (gone.put_off ? 0 : 1),
    put_off: page.put_off - (gone.put_off ? 1 : 0),
    pairs: page.pairs.filter((item) => item !== gone),
  }));
  return { ...data, pages };
}

/** Deciding and taking back. The decided pair leaves the queue at once and the next one comes into view. */
export function useVerdicts(desk: Desk, pair: Pair | undefined) {
  const queries = useQueryClient();
  const decide = useDecide(desk.slug);
  const withdraw = useWithdraw(desk.slug);
  // What is under way at the server: taking back must see its end, or it would take back the decision before.
  const underWay = useRef<Promise<unknown>>(Promise.resolve());

  const leave = (gone: QueuedPair) =>
    queries.setQueryData(desk.options.queryKey, (present) => present && without(present, gone));
  const justDecided = useRef("");
  const say = (verdict: Verdict, remark = "") => {
    // A key held down must not decide the pair twice before the next one is in view; one reached again by Back may be.
    const state = pair ? `${pair.left.id}-${pair.right.id}-${pair.decision?.id ?? 0}` : "";
    if (!pair || justDecided.current === state) return;
    justDecided.current = state;
    const queued = desk.pairs[desk.place];
    const next = desk.pairs[desk.place + 1] ?? desk.pairs[desk.place - 1];
    const deciding = decide.mutateAsync(
      { left_id: pair.left.id, right_id: pair.right.id, verdict, remark, seen_decision: pair.decision?.id ?? null },
      {
        onError: (error) => {
          justDecided.current = "";
          notify(error.message, true);
        },
        // Others decide too, and further pairs may have come into doubt: the server says whether anything is left.
        onSettled: () => desk.pairs.length <= 1 && void desk.queue.refetch(),
      },
    );
    underWay.current = deciding.catch(() => undefined);
    if (queued) leave(queued);
    desk.open(next);
  };
  const takeBackLatest = async () => {
    const own = await queries.fetchQuery(ownDecisionsOptions(desk.slug));
    const last = own.find((decision) => decision.withdrawn_at === null);
    if (!last) return notify("There is no decision of yours to take back.");
    const decision = await withdraw.mutateAsync(last.id);
    justDecided.current = "";
    notify(`Took back “${decision.verdict}”.`);
    desk.open(decision);
  };
  const undo = () => {
    underWay.current = underWay.current.then(takeBackLatest).catch((error: Error) => notify(error.message, true));
  };
  return { say, undo, isDeciding: decide.isPending };
}
